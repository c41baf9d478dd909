<script setup lang="ts">
/** The zero-lash station: set the rod, feel it, and watch the bracket close on the ladder. */
import { t } from '../../kit/words'
import { useStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import {
  problemOf,
  type Change,
  type Feel,
  type LogLine,
  type Problem,
  type Station,
  type TrialIn,
} from '../../api/client'
import LengthLadder from '../../drawings/ladder/LengthLadder.vue'
import type { LadderTrial } from '../../drawings/ladder/plan'
import { useAfterPaint } from '../../kit/afterPaint'
import CautionList from '../../kit/CautionList.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { useKeys } from '../../kit/keys'
import { length, turnsWords } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import { me } from '../../kit/me'
import NodNote from '../../kit/NodNote.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { shownTurns } from '../../kit/whereabouts'
import StrikeDialog from '../../kit/StrikeDialog.vue'
import ValveStrip from '../../kit/ValveStrip.vue'
import { useBuild, useRules } from '../builds'
import { ladderOf } from '../ladder'
import { useCrank } from '../base_circle/crank'
import { useFollowed } from '../base_circle/followed'
import NoteList from '../history/NoteList.vue'
import { useTour } from '../practice/tour'
import BenchMode from './BenchMode.vue'
import CountBack from './CountBack.vue'
import MethodEntry from './MethodEntry.vue'
import StationSays from './StationSays.vue'
import TrialEntry from './TrialEntry.vue'
import TrialLog from './TrialLog.vue'
import { useFollow } from './useFollow'
import { useForeseen } from './useForeseen'
import { useStation } from './useStation'

const props = defineProps<{ buildId: string; valveId: string }>()
const router = useRouter()
const { unit } = usePrefs()
/** The tour's strip takes its room from the ladder, not from what is pressed. */
const { step: touring } = useTour()

const { data: build } = useBuild(() => props.buildId)
const kept = useStation(
  () => props.buildId,
  () => props.valveId,
  () => `${way.value} ${benchMode.value}`,
)
const { query, unsent, retry, drop, trial, measure, countBack, recount } = kept
const { strike, restore, move, expect, stem } = kept
const station = query.data
const rod = computed(() => build.value?.instrument ?? null)
const counts = computed(() => rod.value?.kind === 'checking_rod')
const most = computed(() => rod.value?.most_turns ?? 0)

const benchMode = ref(false)
/** A tablet on the wall shows the valve, and the rod, of the hand that measures. */
const { followed, elsewhere, follows } = useFollow(benchMode)

// Where the real rod stands: it stays as it is from one valve to the next.
const settings = useStorage<Record<string, number>>('vivid-arm.rod-turns', {})
const turns = computed(() => {
  if (followed.value?.turns != null) return Math.min(followed.value.turns, most.value)
  const kept = settings.value[rod.value?.id ?? '']
  if (kept !== undefined) return Math.min(kept, most.value)
  const last = station.value?.log.findLast((l) => l.kind === 'trial' && l.turns !== null)
  return last?.turns ?? 0
})
function setTurns(value: number) {
  if (!rod.value) return
  const within = Math.min(Math.max(value, 0), most.value)
  settings.value = { ...settings.value, [rod.value.id]: Math.round(within * 8) / 8 }
}

watch(turns, (now) => (shownTurns.value = counts.value ? now : null), { immediate: true })
onScopeDispose(() => (shownTurns.value = null))

const caliperInches = ref<number | null>(null)
const rodInches = computed(() => {
  if (!rod.value) return null
  if (!counts.value) return caliperInches.value
  return (rod.value.closed_in ?? 0) + turns.value * (rod.value.pitch_in ?? 0)
})

const { data: rules } = useRules()
const tabs = computed(() => [...new Set((rules.value?.methods ?? []).map((m) => m.tab))])
const ways = computed(() =>
  [t('Bracket'), ...tabs.value].map((words) => ({ value: words.toLowerCase(), words })),
)
const way = useStorage('vivid-arm.way', 'bracket')
const methods = computed(() =>
  (rules.value?.methods ?? []).filter((m) => m.tab.toLowerCase() === way.value),
)
function nextWay() {
  const at = ways.value.findIndex((w) => w.value === way.value)
  way.value = ways.value[(at + 1) % ways.value.length]?.value ?? 'bracket'
}
const methodEntry = useTemplateRef<InstanceType<typeof MethodEntry>>('methodEntry')

const focusCloser = ref(false)
const explaining = ref(false)
const striking = ref<LogLine | null>(null)
const noting = ref<LogLine | null>(null)
const problem = ref<Problem | null>(null)
const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
const entry = useTemplateRef<InstanceType<typeof TrialEntry>>('entry')
const counter = useTemplateRef<InstanceType<typeof CountBack>>('counter')
watch(
  () => props.valveId,
  () => (caliperInches.value = problem.value = null),
)

// A quick hand presses N before the trial is answered: wait for what it says.
let underway: Promise<unknown> = Promise.resolve()
const atStop = () => ({ crank_deg: place.value?.stop.crank_deg ?? null })
function keep(body: Omit<TrialIn, 'key' | 'by'>, inches: number | null) {
  const placed = { ...body, ...atStop() }
  const sending = trial(placed, inches, foreseen(placed))
  underway = sending
  return sending
}
async function setNext() {
  const { valveId } = props
  await underway
  if (valveId !== props.valveId) return
  const step = station.value?.next_trial
  if (step?.turns != null) setTurns(step.turns)
}

async function strikeOut(reason: string) {
  if (striking.value) problem.value = await strike(striking.value.id, reason)
  striking.value = null
}
async function countAgain(line: LogLine) {
  problem.value = await restore(line.id)
}
const others = computed(() => (build.value?.valves ?? []).filter((v) => v.id !== props.valveId))
async function moveTo(id: string) {
  const line = striking.value
  const name = others.value.find((v) => v.id === id)?.name ?? ''
  if (line) problem.value = await move(line.id, id, name)
  striking.value = null
}

async function workOut(way: Station['recounts'][number]) {
  problem.value = await recount(way)
}

function feelAtBench(feel: Feel, gap: string, reads: string, change: Change) {
  const body = {
    setting: counts.value ? turnsWords(turns.value) : reads,
    feel,
    gap,
    unit: unit.value,
    reason: '',
    instrument_id: rod.value?.id ?? null,
    instrument_version: rod.value?.version ?? null,
    sure: false,
    ...change,
  }
  return keep(body, counts.value ? rodInches.value : null)
}

const STRIKES = [
  t('Misread'),
  t('Not on the base circle'),
  t('Tip not in its cup'),
  t('Plunger pushed'),
  t('Turns miscounted'),
]
const strikeTitle = computed(() => {
  const line = striking.value
  if (!line) return null
  if (!line.number) return t('Strike out the count back')
  return t('Strike out {method} {number}', {
    method: line.method ? t('reading') : t('trial'),
    number: line.number,
  })
})

function strikeLast() {
  striking.value =
    station.value?.log.findLast((line) => line.kind !== 'void' && !line.struck) ?? null
}

const valves = computed(() => build.value?.valves ?? [])
const { placeOf, after, leave, turnBetween, finished } = useFollowed(() => props.buildId)
const { turn } = useCrank(() => props.buildId)
const place = computed(() => placeOf(station.value?.valve.name ?? ''))
const painted = useAfterPaint(() => station.value)
const foreseen = useForeseen(
  () => props.buildId,
  () => props.valveId,
  () =>
    painted.value && counts.value && way.value === 'bracket' && !followed.value
      ? { turns: turns.value, ...atStop() }
      : null,
)
const planDone = computed(() =>
  finished(valves.value.filter((v) => v.state === 'settled').map((v) => v.name)),
)
/** The next valve: of the plan being followed, else by cylinder. */
function neighbour(step: number) {
  const at = valves.value.findIndex((v) => v.id === props.valveId)
  const planned = after(valves.value[at]?.name ?? '', step)
  return (
    valves.value.find((v) => v.name === planned) ??
    valves.value[(at + step + valves.value.length) % valves.value.length]
  )
}
const upNext = computed(() => {
  const valve = neighbour(1)
  const there = placeOf(valve?.name ?? '')
  const name = valve?.name ?? ''
  if (!there || !place.value || there.number === place.value.number) return { name, turn: '' }
  const far = turnBetween(place.value, there)
  return {
    name,
    turn: `${t('turn on{far}, then', { far: far === null ? '' : ` ${Math.round(far)}°` })} `,
  }
})
function goTo(step: number) {
  const to = neighbour(step)
  const at = placeOf(to?.name ?? '')?.stop.crank_deg
  if (at != null) turn(at)
  if (to)
    void router.replace({ name: 'zero_lash', params: { buildId: props.buildId, valveId: to.id } })
}

useKeys([
  {
    key: 'arrowright',
    shown: '→',
    does: t('Quarter turn longer'),
    run: () => setTurns(turns.value + 0.25),
  },
  {
    key: 'arrowleft',
    shown: '←',
    does: t('Quarter turn shorter'),
    run: () => setTurns(turns.value - 0.25),
  },
  {
    key: 'shift+arrowright',
    shown: t('Shift →'),
    does: t('Eighth turn longer'),
    run: () => setTurns(turns.value + 0.125),
  },
  {
    key: 'shift+arrowleft',
    shown: t('Shift ←'),
    does: t('Eighth turn shorter'),
    run: () => setTurns(turns.value - 0.125),
  },
  { key: '+', does: t('Full turn longer'), run: () => setTurns(turns.value + 1) },
  { key: '-', shown: '−', does: t('Full turn shorter'), run: () => setTurns(turns.value - 1) },
  { key: 'n', does: t('Set the rod to the next trial'), run: () => void setNext() },
  { key: 'l', does: t('Loose'), run: () => void entry.value?.feel('loose') },
  { key: 'z', does: t('Zero lash'), run: () => void entry.value?.feel('zero') },
  { key: 't', does: t('Tight'), run: () => void entry.value?.feel('tight') },
  { key: 'q', does: t('Quite loose'), run: () => void entry.value?.feel('quite') },
  { key: 'a', does: t('Barely loose'), run: () => void entry.value?.feel('barely') },
  { key: 'o', does: t('No lash, perhaps tight'), run: () => void entry.value?.feel('no_lash') },
  { key: 'g', does: t('Type the gap at the tip'), run: () => entry.value?.typeGap() },
  {
    key: 'r',
    does: t('Type the turns, or what the caliper reads'),
    run: () => (way.value === 'bracket' ? entry.value?.typeSetting() : methodEntry.value?.focus()),
  },
  { key: 'm', does: t('Another way of measuring'), run: nextWay },
  { key: 'c', does: t('Count back to closed'), run: () => void counter.value?.start() },
  { key: 'x', does: t('Strike out the last reading'), run: strikeLast },
  { key: 'w', does: t('Bench mode, read from two metres'), run: () => (benchMode.value = true) },
  { key: 'v', does: t('Next valve, of the plan when one is followed'), run: () => goTo(1) },
  { key: 'b', does: t('Valve before'), run: () => goTo(-1) },
  {
    key: 'f',
    does: t('Closer or the whole ladder'),
    run: () => (focusCloser.value = !focusCloser.value),
  },
  {
    key: 'e',
    does: t('How zero lash comes about'),
    run: () => (explaining.value = !explaining.value),
  },
])

const expects = computed(() => {
  const { expected_in: typed, predicted_in: predicted } = station.value?.valve ?? {}
  if (typed != null)
    return t('Expected near {typed}: the length entered', { typed: length(typed, unit.value) })
  if (predicted != null)
    return t('Expected near {predicted}: predicted from what changed', {
      predicted: length(predicted, unit.value),
    })
  const next = station.value?.next_trial
  return next ? next.reason : ''
})
const conflicting = computed(() => new Set(station.value?.contradictions.flat() ?? []))
const ladderTrials = computed<LadderTrial[]>(() => {
  const kept = (station.value?.log ?? []).filter((l) => l.kind === 'trial' && !l.struck)
  const shown = kept.flatMap((l) =>
    l.length_in === null || !l.feel
      ? []
      : [
          {
            number: l.number ?? 0,
            length: l.length_in,
            feel: l.feel,
            gap: l.gap_in,
            conflict: conflicting.value.has(l.number ?? 0),
            pending: false,
          },
        ],
  )
  const pending = unsent.value.flatMap((u, i) =>
    u.inches === null || u.kind !== 'trial'
      ? []
      : [
          {
            number: shown.length + i + 1,
            length: u.inches,
            feel: (u.body as TrialIn).feel,
            gap: null,
            conflict: false,
            pending: true,
          },
        ],
  )
  return [...shown, ...pending]
})
const ladderMeasures = computed(() =>
  (station.value?.log ?? [])
    .filter((l) => l.method && !l.struck && l.length_in !== null)
    .map((l) => ({
      number: l.number ?? 0,
      length: l.length_in ?? 0,
      spread: 2 * (l.u_in ?? 0),
      odd: station.value?.combined?.odd?.endsWith(`(${l.number})`) ?? false,
    })),
)
const notches = computed(() =>
  (station.value?.candidates ?? []).map((c) => ({
    axis: c.axis_in,
    label: c.length_in,
    inside: c.inside,
    best: c.best,
  })),
)
</script>

<template>
  <div v-if="build && station" class="station">
    <div class="strip">
      <ValveStrip :build="build" :valve-id="valveId" step="zero_lash" />
      <span class="axis-words">
        {{
          t('Cylinder {cylinder} {kind}', {
            cylinder: station.valve.cylinder,
            kind: t(station.valve.kind),
          })
        }}
      </span>
      <!-- A practice engine has its bench beside it: nothing may cover that, or push it down. -->
      <button v-if="!build.exercise_id" type="button" class="plain far" @click="benchMode = true">
        {{ t('Bench mode') }}
      </button>
      <button
        type="button"
        class="plain"
        :aria-pressed="focusCloser"
        @click="focusCloser = !focusCloser"
      >
        {{ focusCloser ? t('Whole ladder') : t('Closer') }}
      </button>
    </div>

    <LengthLadder
      :low="Boolean(touring)"
      v-bind="ladderOf(build)"
      :unit="unit"
      :trials="ladderTrials"
      :rod="rodInches"
      :next="station.next_trial?.length_in ?? null"
      :expected="station.valve.trials ? null : (station.valve.expected_in ?? null)"
      :predicted="station.valve.predicted_in ?? null"
      :measures="ladderMeasures"
      :loose="station.longest_loose_in"
      :tight="station.shortest_tight_in"
      :zero="station.valve.estimate_in"
      :spread="station.valve.u_in === null ? null : 2 * station.valve.u_in"
      :ratio="station.ratio"
      :notches="notches"
      :closer="focusCloser"
      :solid="build.lifter_kind === 'solid'"
      :expects="expects"
    />

    <div class="bench">
      <div class="ways">
        <ChoiceRow v-model="way" quiet :label="t('Way of measuring')" :options="ways" />
        <TrialEntry
          v-if="way === 'bracket'"
          ref="entry"
          :key="valveId"
          :build="build"
          :turns="turns"
          :inches="rodInches"
          :keep="keep"
          @turn="setTurns"
          @read="caliperInches = $event"
        />
        <MethodEntry
          v-else-if="methods.length"
          ref="methodEntry"
          :key="`${valveId} ${way}`"
          :build="build"
          :methods="methods"
          :ratio="station.ratio"
          :keep="(body) => measure({ ...body, ...atStop() })"
        />
      </div>
      <StationSays
        :key="valveId"
        v-model:explaining="explaining"
        :build="build"
        :station="station"
        :turns="turns"
        :expect="expect"
        :stem="stem"
        @set-next="setNext"
        @recount="workOut"
      >
        <NodNote v-if="me.name" :build-id="buildId" :valve-id="valveId" />
        <div v-if="place" class="followed">
          <span>
            {{ t('Stop {number} of {of}', { number: place.number, of: place.of })
            }}<template v-if="place.margin !== null">{{
              t(', {margin}° inside its heel', { margin: Math.round(place.margin) })
            }}</template>
          </span>
          <RouterLink
            v-if="planDone"
            class="plain strong"
            :to="{ name: 'rocker', params: { buildId, valveId } }"
            >{{ t('Every valve of the plan measured: Rocker') }}</RouterLink
          >
          <button v-else type="button" class="plain" @click="goTo(1)">
            {{ t('Next: {turn}{name}', { turn: upNext.turn, name: upNext.name }) }} <kbd>V</kbd>
          </button>
          <button type="button" class="plain" :aria-label="t('Leave the plan')" @click="leave">
            ✕
          </button>
        </div>
      </StationSays>
      <section class="logbook" :aria-label="t('Log')">
        <div class="log-top">
          <h3>{{ t('Log') }}</h3>
          <CountBack v-if="counts" ref="counter" :key="valveId" :check="countBack" />
        </div>
        <ProblemNote :problem="problem" />
        <TrialLog
          :log="station.log"
          :unsent="unsent"
          @strike="striking = $event"
          @restore="countAgain"
          @note="noting = $event"
          @retry="retry($event)"
          @drop="drop"
        />
        <NoteList :key="valveId" v-model:on="noting" :build-id="buildId" :valve-id="valveId" />
      </section>
    </div>
    <CautionList :cautions="station.cautions" />
    <BenchMode
      v-if="benchMode"
      v-model:follows="follows"
      :station="station"
      :turns="turns"
      :counts="counts"
      :up-next="`${upNext.turn}${upNext.name}`"
      :feel="feelAtBench"
      :others="elsewhere"
      :followed="followed"
      @set-next="setNext"
      @go="goTo"
      @close="benchMode = false"
    />
    <StrikeDialog
      :title="strikeTitle"
      :reasons="STRIKES"
      @strike="strikeOut"
      @close="striking = null"
    >
      <label v-if="striking?.number" class="belongs">
        {{ t('It belongs to') }}
        <select :aria-label="t('The valve it belongs to')" @change="moveTo(valueOf($event))">
          <option value="">{{ t('another valve') }}</option>
          <option v-for="v in others" :key="v.id" :value="v.id">{{ v.name }}</option>
        </select>
      </label>
    </StrikeDialog>
  </div>
  <p v-else-if="query.error.value" class="away" role="alert">
    {{ problemOf(query.error.value).detail }}
  </p>
  <p v-else class="away">{{ t('Reading the log…') }}</p>
</template>

<style scoped>
.station {
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.strip {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
}
.strip > :first-child {
  min-width: 0;
  max-width: 100%;
}
.axis-words {
  margin-left: auto;
  color: var(--quiet);
}
.ways {
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.ways :deep(.choices) {
  gap: 4px;
}
.ways > :deep(.choices .plain) {
  padding: 0 8px;
  flex: 1 1 auto;
}
.bench {
  display: grid;
  grid-template-columns: 384px minmax(320px, 1fr) minmax(290px, 340px);
  gap: 24px;
  align-items: start;
}
.followed {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding-top: 6px;
  border-top: 1px solid var(--rule);
}
.followed span {
  flex: 1;
}
.belongs {
  display: flex;
  grid-column: 1 / -1;
  gap: 8px;
  align-items: center;
}
.belongs select {
  flex: 1;
}
.log-top {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
}
h3 {
  margin: 0 0 2px;
  font-size: 16px;
}
.logbook {
  max-height: 300px;
  overflow: auto;
}
.away {
  padding: 40px 0;
}
@container station (max-width: 1060px) {
  .axis-words {
    display: none;
  }
  .far {
    margin-left: auto;
  }
  .bench {
    grid-template-columns: 1fr 1fr;
  }
  .logbook {
    grid-column: 1 / -1;
    max-height: none;
  }
}
@container station (max-width: 700px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
