<script setup lang="ts">
/** The check in hand: one valve after the other, typed or answered, each with its margin. */
import { decimal, t } from '../../kit/words'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Build, Check, CheckPoint, FindingIn, Problem } from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import NumberEntry from '../../kit/NumberEntry.vue'
import { when, small, smallSpan } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { takeOut } from '../../kit/entries'
import { wantGauge } from '../../kit/gauge'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { refusedBy } from '../../kit/refused'
import type { Keeper } from '../useKeeper'

type Unsent = FindingIn & { problem: Problem | null; refused: boolean }
const props = defineProps<{
  build: Build
  check: Check
  valve: string
  problem: Problem | null
  /** What was found and is not kept yet, of every check. */
  unsent: Unsent[]
  keeper: Keeper
  /** Keep what was found; false where it was refused and `free` for it to be entered again. */
  find: (body: Omit<FindingIn, 'key' | 'by' | 'unit'>, free: () => boolean) => Promise<boolean>
}>()
const emit = defineEmits<{ select: [valve: string]; hold: [] }>()
const { unit } = usePrefs()
const typed = ref('')
const way = ref(props.check.ways[0] ?? '')
const field = useTemplateRef<{ focus: () => void }>('field')
watch(
  () => props.check.name,
  () => {
    typed.value = ''
    way.value = props.check.ways[0] ?? ''
  },
)
watch(
  () => [props.check.name, props.valve],
  async () => {
    await nextTick()
    // A limit's answer may end the check: whoever types elsewhere by then is left alone.
    const typing = document.activeElement?.matches('input, textarea')
    if (!typing && !matchMedia('(pointer: coarse)').matches) field.value?.focus()
  },
)
const point = computed(() => props.check.points.find((p) => p.valve === props.valve) ?? null)
const ways = computed(() =>
  props.check.ways.map((value, i) => ({ value, words: props.check.ways_words[i] ?? value })),
)
const limitWords = (p: CheckPoint) => {
  if (props.check.yes_no) return t('yes')
  if (p.low_in !== null && p.high_in !== null) return smallSpan(p.low_in, p.high_in, unit.value)
  return p.low_in === null
    ? t('not known')
    : t('at least {low}', { low: small(p.low_in, unit.value) })
}
const found = (p: CheckPoint) => {
  if (p.yes !== null) return p.yes ? t('yes') : t('no')
  return p.value_in === null ? '' : small(p.value_in, unit.value)
}
const unsentOf = (p: CheckPoint) =>
  props.unsent.find((u) => u.name === props.check.name && u.valve === p.valve) ?? null
function unsentWords({ yes, text, problem, refused }: Unsent) {
  const what = yes == null ? text : yes ? t('yes') : t('no')
  if (!problem) return `${what}, ${t('saving…')}`
  return `${what}, ${refused ? problem.detail : t('waits for the server')}`
}
const ASK: Record<string, string> = {
  turns: t('Turns from zero lash to seated'),
  indicator: t('Indicator: rod pushed by'),
  gap: t('Gap at the tip, lifter bottomed'),
  table: t('Crank degrees and clearance, -10 0.120; -5 0.102; …'),
  feeler: t('Feeler that drags'),
  feeler_cold: t('Feeler that drags, engine cold'),
  clay: t('Clay at its thinnest'),
}
const ask = computed(() => ASK[way.value] ?? t('Clearance'))
async function send() {
  const text = typed.value
  if (!text.trim()) return
  const putBack = takeOut(typed)
  const body = { name: props.check.name, valve: props.valve, way: way.value, text }
  if (!(await props.find(body, () => !typed.value))) putBack()
}
const answerWith = (yes: boolean) =>
  props.find({ name: props.check.name, valve: props.valve, way: '', text: '', yes }, () => true)
watch(
  () => props.valve,
  () => (typed.value = ''),
)
useKeys([
  { key: 'y', does: t('Yes'), run: () => props.check.yes_no && answerWith(true) },
  { key: 'n', does: t('No'), run: () => props.check.yes_no && answerWith(false) },
])
type Limits = NonNullable<Build['limits']>
/** Bound to its check: what is read after another was taken in hand is this one's all the same. */
const keepLimitOf = (name: string, kind: 'intake' | 'exhaust') => (value: number | null) => {
  if (name === props.check.name) emit('hold')
  void props.keeper.keep({
    limits: ({ limits }): Limits => ({
      ...limits,
      [name]: { ...limits?.[name], [`${kind}_in`]: value },
    }),
  })
}
const editable = computed(() => props.check.usual_intake_in !== null)
const ownLimit = (kind: 'intake' | 'exhaust') =>
  props.build.limits?.[props.check.name]?.[`${kind}_in`] ??
  (kind === 'intake' ? props.check.usual_intake_in : props.check.usual_exhaust_in)
wantGauge(() => !props.check.yes_no && way.value !== 'turns')
</script>

<template>
  <section class="check" :aria-label="check.title">
    <h2>{{ check.title }}</h2>
    <p class="quiet">{{ check.how }}</p>
    <ChoiceRow v-if="ways.length > 1" v-model="way" quiet :label="t('How')" :options="ways" />
    <div v-if="point" class="ask" data-bench>
      <span class="valve">{{ valve }}</span>
      <template v-if="check.yes_no">
        <button
          type="button"
          class="plain"
          data-main
          :class="{ strong: point.yes !== false }"
          :aria-pressed="point.yes === true"
          @click="answerWith(true)"
        >
          {{ t('Yes') }} <kbd>Y</kbd>
        </button>
        <button
          type="button"
          class="plain"
          :class="{ strong: point.yes === false }"
          :aria-pressed="point.yes === false"
          @click="answerWith(false)"
        >
          {{ t('No') }} <kbd>N</kbd>
        </button>
      </template>
      <label v-else>
        {{ ask }}
        <el-input
          id="found"
          ref="field"
          v-model="typed"
          v-bind="refusedBy('found', problem)"
          data-gauge
          data-main
          autocomplete="off"
          :aria-label="ask"
          @keydown.enter.prevent="send"
        >
          <template #suffix>{{ way === 'turns' ? t('turns') : unit }}</template>
        </el-input>
      </label>
      <button v-if="!check.yes_no" type="button" class="plain strong" @click="send">
        {{ t('Keep') }}
      </button>
      <span class="quiet">{{
        t('limit {point}, {limit_source}', {
          point: limitWords(point),
          limit_source: point.limit_source,
        })
      }}</span>
    </div>
    <ProblemNote id="found-why" :problem="problem" @use="((typed = $event), send())" />
    <table>
      <thead>
        <tr>
          <th scope="col">{{ t('Valve') }}</th>
          <th scope="col">{{ t('Found') }}</th>
          <th scope="col">{{ t('Limit') }}</th>
          <th scope="col">{{ t('Margin') }}</th>
          <th scope="col">
            <span class="unseen">{{ t('Passes') }}</span>
          </th>
          <th scope="col">{{ t('By') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="p in check.points"
          :key="p.valve"
          :class="[p.state, { current: p.valve === valve }]"
          @click="emit('select', p.valve)"
        >
          <th scope="row">{{ p.valve }}</th>
          <td>
            <template v-if="!unsentOf(p)">{{ found(p) }}</template>
            <span v-else class="quiet">{{ unsentWords(unsentOf(p)!) }}</span>
            <span v-if="p.crank_deg !== null" class="quiet">{{
              t('at {a}°', { a: decimal(p.crank_deg.toFixed(1)) })
            }}</span>
          </td>
          <td class="quiet">{{ limitWords(p) }}</td>
          <td>{{ p.margin_in === null ? '' : small(p.margin_in, unit) }}</td>
          <td class="state">
            {{ p.state === 'open' ? t('open') : p.state === 'passed' ? t('✓ passes') : t('✕ fails')
            }}<span v-if="!p.sure" class="quiet">{{ t(', at the limit') }}</span>
          </td>
          <td class="quiet">{{ p.at ? `${p.by || t('unsigned')}, ${when(p.at)}` : '' }}</td>
        </tr>
      </tbody>
    </table>
    <div v-if="editable" class="limits">
      <NumberEntry
        v-for="kind in ['intake', 'exhaust'] as const"
        :key="`${check.name} ${kind}`"
        :label="t('Least, {kind}', { kind: t(kind) })"
        field="clearance"
        optional
        :model-value="ownLimit(kind) ?? null"
        v-bind="{ 'onUpdate:modelValue': keepLimitOf(check.name, kind) }"
      />
    </div>
    <ProblemNote :problem="keeper.refusalOf('limits')" />
  </section>
</template>

<style scoped>
.check {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
h2 {
  margin: 0;
  font-size: 23px;
}
.quiet {
  margin: 0;
  color: var(--quiet);
  font-size: 14px;
}
.ask,
.limits {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 8px 14px;
}
.ask label {
  font-size: 14px;
  color: var(--quiet);
}
.ask .el-input {
  display: flex;
  width: 260px;
}
.valve {
  font-size: 34px;
  font-weight: 600;
  line-height: 44px;
  min-width: 60px;
}
.ask kbd {
  color: inherit;
  border-color: currentColor;
}
tbody tr {
  cursor: pointer;
}
th:first-child {
  padding-left: 10px;
}
.current th {
  box-shadow: inset 4px 0 0 var(--accent);
}
.failed .state {
  color: var(--alarm-ink);
  font-weight: 600;
}
.open .state {
  color: var(--quiet);
}
</style>
