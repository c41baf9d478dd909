<script setup lang="ts">
/** The engine hot: materials, heights and temperatures, and what each part does to the preload. */
import { decimal, t } from '../../kit/words'
import { computed } from 'vue'
import type { Build, Decision, RodPlanFigures } from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import FigureEntry from '../../kit/FigureEntry.vue'
import NumberEntry from '../../kit/NumberEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import { small, within } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import type { Keeper } from '../useKeeper'
import { planOf, planWith } from './useDecide'

const props = defineProps<{ build: Build; decision: Decision | null; keeper: Keeper }>()
const { unit } = usePrefs()
const plan = computed(() => planOf(props.build))
const MATERIALS = [
  { value: 'iron', words: t('Iron') },
  { value: 'aluminium', words: t('Aluminium') },
  { value: 'steel', words: t('Steel') },
] as const
type Material = (typeof MATERIALS)[number]['value']
const keep = (change: (plan: RodPlanFigures) => Partial<RodPlanFigures>) =>
  props.keeper.keep(planWith(change))

/** Other materials start from usual figures again. */
function takeMaterial(part: 'block' | 'head', material: Material) {
  const other = part === 'block' ? 'head' : 'block'
  void keep((plan) => ({ [part]: material, [other]: plan[other] ?? material, parts: {} }))
}
type Part = Decision['stack'][number]
function keepPart(part: Part, values: Partial<Part>) {
  const { height_in, material, rise_k, within_in, within_k } = part
  const shown = { height_in, material, rise_k, within_in, within_k }
  void keep(({ parts }) => ({
    parts: { ...parts, [part.part]: { ...shown, ...parts?.[part.part], ...values } },
  }))
}
const KINDS = ['intake', 'exhaust'] as const
const termOf = (kind: (typeof KINDS)[number], part: string) =>
  props.decision?.growth[kind]?.terms.find((t) => t.part === part)
function keepGrown(kind: (typeof KINDS)[number], value: number | null) {
  const own = value === null ? [] : [[kind, value] as const]
  void keep(({ grown_in }) => ({
    grown_in: Object.fromEntries([...Object.entries(grown_in).filter(([k]) => k !== kind), ...own]),
  }))
}
/** Where what was read differs from the stack, by how much every part would have to grow. */
function fitWords(kind: (typeof KINDS)[number]) {
  const grown = props.decision?.growth[kind]
  if (!grown) return ''
  const stack = t('{kind}: the stack gives {stack}', {
    kind: kind === 'intake' ? t('Intake') : t('Exhaust'),
    stack: signed(grown.stack_in),
  })
  return grown.fit === null
    ? t('{stack}, the other way than was read: a height or a rise is wrong, or the reading.', {
        stack,
      })
    : t(
        '{stack}; what was read is {fit} times that: heights or rises differ from those entered by as much.',
        { stack, fit: decimal(grown.fit.toFixed(2)) },
      )
}
const signed = (inches: number) => `${inches > 0 ? '+' : ''}${small(inches, unit.value)}`
</script>

<template>
  <section class="hot" :aria-label="t('Hot engine')">
    <div class="choices">
      <ChoiceRow
        v-for="part in ['block', 'head'] as const"
        :key="part"
        :label="part === 'block' ? t('Block') : t('Heads')"
        :options="[...MATERIALS.slice(0, 2)]"
        :model-value="plan[part] ?? null"
        @update:model-value="takeMaterial(part, $event)"
      />
    </div>
    <ProblemNote :problem="keeper.refusalOf('plan')" />
    <p v-if="!decision?.stack.length" class="quiet">
      {{
        plan.block && plan.head
          ? t('Kept. What it does to the preload follows when a valve has been read.')
          : t(
              'Choose what block and heads are made of: the preload hot follows from it. Growth is left out until then.',
            )
      }}
    </p>
    <template v-else>
      <table>
        <thead>
          <tr>
            <th scope="col">{{ t('Part, measured along the rod') }}</th>
            <th scope="col">{{ t('Height') }}</th>
            <th scope="col">±</th>
            <th scope="col">{{ t('Rise of its mean, K') }}</th>
            <th scope="col">± K</th>
            <th scope="col">{{ t('Material') }}</th>
            <th scope="col" class="n">{{ t('Intake') }}</th>
            <th scope="col" class="n">{{ t('Exhaust') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in decision.stack" :key="part.part">
            <th scope="row">
              {{ part.words }}<span v-if="part.own" class="own">{{ ` ${t('own')}` }}</span>
            </th>
            <td v-for="field in ['height_in', 'within_in'] as const" :key="field">
              <NumberEntry
                bare
                :label="`${part.words} ${field === 'height_in' ? t('height') : t('within')}`"
                field="part_height"
                :model-value="part[field]"
                @update:model-value="keepPart(part, { [field]: $event ?? 0 })"
              />
            </td>
            <td v-for="field in ['rise_k', 'within_k'] as const" :key="field" class="kelvin">
              <FigureEntry
                bare
                :label="`${part.words} ${field === 'rise_k' ? t('rise') : t('rise within')}`"
                :model-value="part[field]"
                @keep-number="keepPart(part, { [field]: $event ?? 0 })"
              />
            </td>
            <td>
              <PickOne
                :label="t('{words} material', { words: part.words })"
                :options="MATERIALS"
                :model-value="part.material"
                class="material"
                @update:model-value="keepPart(part, { material: $event })"
              />
            </td>
            <td v-for="kind in KINDS" :key="kind" class="n">
              {{ termOf(kind, part.part) ? signed(termOf(kind, part.part)!.value_in) : '' }}
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <th scope="row" colspan="6">{{ t('Preload moves from cold to hot by') }}</th>
            <td v-for="kind in KINDS" :key="kind" class="n">
              <template v-if="decision.growth[kind]">
                <b>{{ signed(decision.growth[kind]!.change_in) }}</b>
                <span class="quiet"> {{ within(2 * decision.growth[kind]!.u_in, unit) }}</span>
              </template>
            </td>
          </tr>
          <tr>
            <th scope="row" colspan="6">
              {{ t('As read on the engine, hot less cold (empty: the stack)') }}
            </th>
            <td v-for="kind in KINDS" :key="kind" class="n">
              <NumberEntry
                bare
                optional
                :label="t('Preload read hot less cold, {kind}', { kind: t(kind) })"
                field="change"
                :model-value="plan.grown_in[kind] ?? null"
                @update:model-value="keepGrown(kind, $event)"
              />
            </td>
          </tr>
        </tfoot>
      </table>
      <p v-for="kind in KINDS.filter((k) => decision?.growth[k]?.read_in != null)" :key="kind">
        {{ fitWords(kind) }}
      </p>
      <p class="quiet">
        {{
          t(
            'Growth = expansion × height × rise; block and lifter count once, the head (1 + 1/R0) times, seat and valve 1/R0. Expansion: handbook ranges, steel 11 to 12, cast iron 10 to 12, aluminium 21 to 24 × 10⁻⁶/K. Heights and temperatures are starting values (common practice): put in your own. ± at k = 2.',
          )
        }}
      </p>
    </template>
  </section>
</template>

<style scoped>
.hot {
  display: flex;
  flex-direction: column;
  gap: 10px;
  overflow-x: auto;
}
.choices {
  display: flex;
  gap: 10px 28px;
  flex-wrap: wrap;
  align-items: center;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
.quiet {
  margin: 0;
  max-width: 900px;
}
.n {
  text-align: right;
  white-space: nowrap;
  min-width: 84px;
}
tfoot b {
  font-size: 19px;
}
.own {
  font-size: 13px;
  color: var(--accent);
}
.material {
  width: 120px;
}
.kelvin {
  width: 84px;
}
</style>
