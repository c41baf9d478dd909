<script setup lang="ts">
/** Which rods to order: the way of buying, every valve's preload cold and hot, the rod itself. */
import { decimal, language, t } from '../../kit/words'
import { computed, ref } from 'vue'
import { answer, api, problemOf, type Decision, type Problem } from '../../api/client'
import FitStrips from '../../drawings/FitStrips.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { isRead } from '../../kit/entries'
import FigureEntry from '../../kit/FigureEntry.vue'
import NumberEntry from '../../kit/NumberEntry.vue'
import { bareLength, length, percent, small } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import VerdictNote from '../../kit/VerdictNote.vue'
import { useBuild } from '../builds'
import { ladderOf } from '../ladder'
import { useKeeper } from '../useKeeper'
import BoxView from './BoxView.vue'
import HotView from './HotView.vue'
import LengthsView from './LengthsView.vue'
import RodView from './RodView.vue'
import InHandView from './InHandView.vue'
import { planOf, planWith, useDecision, useInHand } from './useDecide'
import WayTable from './WayTable.vue'

const props = defineProps<{ buildId: string }>()
const { unit } = usePrefs()
const { data: build, error } = useBuild(() => props.buildId)
const { data: decision, error: refused, isFetched: decided } = useDecision(() => props.buildId)
const { data: inHand, isFetched: read } = useInHand(() => props.buildId)
/** The valve that is the least sure neither to run loose nor to bottom, hot. */
const hotSafe = computed(() => {
  const rows = decision.value?.rows ?? []
  const told = rows.flatMap((r) =>
    r.chances.hot_safe === null ? [] : [[r.chances.hot_safe, r.name]],
  )
  const [chance, name] = told.sort((a, b) => Number(a[0]) - Number(b[0]))[0] ?? []
  return chance === undefined ? null : { chance: percent(Number(chance)), name }
})
const keeper = useKeeper(() => props.buildId)
const plan = computed(() => (build.value ? planOf(build.value) : null))

const had = computed(
  () => plan.value?.lengths_in.map((c) => bareLength(c, unit.value)).join(' ') ?? '',
)
const keepHad = (text: string) => isRead(readHad(text))
async function readHad(text: string): Promise<boolean> {
  const parts = text.split(/[\s;]+|,\s+/).filter(Boolean)
  const read = (part: string) =>
    answer(
      api.POST('/api/compute/length', {
        body: { text: part, field: 'rod_length', unit: unit.value },
      }),
    )
  try {
    const lengths = await Promise.all(parts.map(read))
    void keeper.keep(planWith(() => ({ lengths_in: lengths.map((l) => l.inches) })))
    hadProblem.value = null
    return true
  } catch (thrown) {
    hadProblem.value = problemOf(thrown)
    return false
  }
}
const hadProblem = ref<Problem | null>(null)

const VIEWS = [
  { value: 'valves', words: t('Every valve') },
  { value: 'ladder', words: t('On the ladder') },
  { value: 'hot', words: t('Hot engine') },
  { value: 'rod', words: t('The rod') },
  { value: 'box', words: t('Rod box') },
] as const satisfies { value: string; words: string }[]
const view = ref<(typeof VIEWS)[number]['value']>('valves')

function take(strategy: Decision['strategy']) {
  void keeper.keep(planWith(() => ({ strategy })))
}
useKeys([
  { key: '1', does: t('Fewest lengths'), run: () => take('fewest') },
  { key: '2', does: t('Intake and exhaust'), run: () => take('kinds') },
  { key: '3', does: t('One length'), run: () => take('one') },
  { key: '4', does: t('Best possible'), run: () => take('best') },
  {
    key: 'v',
    does: t('Next view'),
    run: () => {
      const at = VIEWS.findIndex((v) => v.value === view.value)
      view.value = VIEWS[(at + 1) % VIEWS.length]?.value ?? 'valves'
    },
  },
])
const gain = computed(() => {
  const [least, next] = decision.value?.gains ?? []
  if (!least || !next) return ''
  return t('{lengths} lengths would bring the worst miss from {worst_miss} to {worst_miss2}.', {
    lengths: next.lengths,
    worst_miss: small(least.worst_miss_in, unit.value),
    worst_miss2: small(next.worst_miss_in, unit.value),
  })
})
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <!-- All at once: what came later would push down what is there. -->
  <div v-if="build && decided && read" class="decide">
    <ProblemNote v-if="refused" :problem="problemOf(refused)" />
    <InHandView v-if="inHand?.length" :found="inHand" />
    <p v-if="decision === null && !inHand?.length" class="none">
      {{
        t(
          'Nothing to order yet: find zero lash first. Rods in the engine already? Read their preload with turns, an indicator or a gap: no length is needed.',
        )
      }}
    </p>
    <div v-if="decision" class="top">
      <div class="words">
        <VerdictNote :verdict="decision.verdict" />
        <p v-for="w in decision.warnings" :key="w" class="warning">{{ w }}</p>
      </div>
      <div class="ways">
        <WayTable :decision="decision" @take="take" />
        <p v-if="gain" class="quiet">{{ gain }}</p>
        <ProblemNote :problem="keeper.refusalOf('plan')" />
      </div>
    </div>
    <ul v-if="decision?.remedies.length" class="remedies" :aria-label="t('Remedies')">
      <li v-for="r in decision.remedies" :key="r.name">
        <b>{{ r.name }}</b>
        {{
          t('nearest {nearest}, {by} too {by2}: a rod of {custom}', {
            nearest: length(r.nearest_in, unit),
            by: small(Math.abs(r.by_in), unit),
            by2: r.by_in > 0 ? t('long') : t('short'),
            custom: length(r.custom_in, unit),
          })
        }}<template v-if="r.shim_in">{{
          t(', a shim of {shim}', { shim: small(r.shim_in, unit) })
        }}</template
        >{{
          t(', or a stem {stem} {stem2} (machinist)', {
            stem: small(Math.abs(r.stem_in), unit),
            stem2: r.stem_in > 0 ? t('taller') : t('lower'),
          })
        }}
      </li>
    </ul>
    <div class="tabs">
      <ChoiceRow v-model="view" quiet :label="t('Show')" :options="VIEWS" />
      <RouterLink
        v-if="decision"
        class="plain strong"
        :to="{ name: 'order', params: { buildId } }"
        >{{ t('Go to the order') }}</RouterLink
      >
    </div>
    <template v-if="view === 'valves' && decision">
      <FitStrips
        v-if="decision.mode === 'length'"
        :unit="unit"
        :rows="decision.rows"
        :lots="decision.lots"
        :lifter="ladderOf(build).lifter"
        :tolerance="decision.tolerance_in"
      />
      <table v-else>
        <thead>
          <tr>
            <th scope="col">{{ t('Valve') }}</th>
            <th scope="col">{{ t('Rod') }}</th>
            <th scope="col">{{ t('Adjuster from where it was measured') }}</th>
            <th scope="col">
              {{ decision.mode === 'lash' ? t('Slack on the rod') : t('Preload') }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in decision.rows" :key="row.name">
            <th scope="row">{{ row.name }}{{ row.inferred ? ` ${t('(inferred)')}` : '' }}</th>
            <td>{{ length(row.length_in, unit) }}</td>
            <td>
              {{
                t('{a} turns {turns}', {
                  a: decimal(Math.abs(row.turns ?? 0).toFixed(2)),
                  turns:
                    (row.turns ?? 0) > 0.005 ? t('out') : (row.turns ?? 0) < -0.005 ? 'in' : '',
                })
              }}
              <span v-if="!row.inside" class="out">{{ t('beyond its reach') }}</span>
            </td>
            <td>{{ small(Math.abs(row.preload_in), unit) }}</td>
          </tr>
        </tbody>
      </table>
      <div class="small">
        <NumberEntry
          :label="t('Rods come within ±')"
          field="tolerance"
          :model-value="decision.tolerance_in"
          @update:model-value="keeper.keep(planWith(() => ({ tolerance_in: $event })))"
        />
        <FigureEntry
          v-if="decision.mode !== 'length'"
          :label="t('Adjuster may move by')"
          :suffix="t('turns')"
          :model-value="decision.reach_turns"
          @keep-number="keeper.keep(planWith(() => ({ reach_turns: $event })))"
        />
        <FigureEntry
          v-if="decision.rows.some((r) => r.inferred)"
          :label="t('Odd valves in your engines: one in')"
          :model-value="decision.odd_one_in"
          @keep-number="keeper.keep(planWith(() => ({ odd_one_in: $event })))"
        />
        <FigureEntry
          text
          class="had"
          :label="t('Lengths that can be had, when not every step')"
          :placeholder="t('every {stock_step}', { stock_step: small(build.stock_step_in, unit) })"
          :model-value="had"
          :refusal="hadProblem"
          @keep="keepHad"
        />
        <p class="quiet">
          {{
            t(
              "Whiskers: twice the uncertainty of zero lash and the rod's tolerance. Chances are worked out exactly and counted over {a} simulated engines as a check; they differ by at most {a2} %.",
              {
                a: decision.draws.toLocaleString(language),
                a2: (
                  100 *
                  Math.max(...decision.rows.map((r) => Math.abs(r.chances.cold - r.counted.cold)))
                ).toFixed(1),
              },
            )
          }}
          <template v-if="hotSafe">
            {{
              t(
                "Hot, no valve runs loose or on the plunger's bottom with {chance} ({name}) or better.",
                { chance: hotSafe.chance, name: hotSafe.name },
              )
            }}
          </template>
        </p>
      </div>
    </template>
    <LengthsView
      v-else-if="view === 'ladder' || (view === 'valves' && decision === null && !inHand?.length)"
      :build="build"
      :decision="decision ?? null"
    />
    <HotView
      v-else-if="view === 'hot'"
      :build="build"
      :decision="decision ?? null"
      :keeper="keeper"
    />
    <RodView v-else-if="view === 'rod'" :build="build" :keeper="keeper" />
    <BoxView v-else-if="view === 'box'" :build="build" />
    <p class="quiet">
      {{
        t(
          "Buy one rod a size up and one a size down and try them before the full set. The makers' sheets rule over any figure here; in doubt ask a licensed machinist.",
        )
      }}
    </p>
  </div>
</template>

<style scoped>
.decide {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
.top {
  display: grid;
  grid-template-columns: 380px minmax(0, 1fr);
  gap: 28px;
}
.quiet {
  color: var(--quiet);
  margin: 0;
  font-size: 14px;
}
.ways .quiet {
  margin-top: 6px;
}
.none {
  font-size: 22px;
  margin: 10px 0 0;
}
.warning {
  margin: 8px 0 0;
  color: var(--alarm-ink);
}
.tabs {
  display: flex;
  justify-content: space-between;
  flex-wrap: wrap;
  gap: 8px;
  border-top: 1px solid var(--rule);
  padding-top: 12px;
}
.remedies {
  margin: 0;
  padding-left: 18px;
  line-height: 1.5;
}
.small {
  display: flex;
  gap: 26px;
  flex-wrap: wrap;
  align-items: end;
}
.small .quiet {
  flex: 1;
  min-width: 300px;
}
.out {
  color: var(--alarm-ink);
}
@container station (max-width: 1060px) {
  .top {
    grid-template-columns: minmax(0, 1fr);
    gap: 12px;
  }
  .ways {
    overflow-x: auto;
  }
}
</style>
