<script setup lang="ts">
/** The rocker: the mechanism moving to scale, the mark on the tip, and what to change. */
import { useRafFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { problemOf, type Mark, type Motion, type Problem } from '../../api/client'
import ArmView from '../../drawings/ArmView.vue'
import { frameAt, placeIn, rowAt, settingAt } from '../../drawings/frame'
import LiftCurves from '../../drawings/LiftCurves.vue'
import SettingCurve from '../../drawings/SettingCurve.vue'
import TipView from '../../drawings/TipView.vue'
import CautionList from '../../kit/CautionList.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { length, small, within } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import StrikeDialog from '../../kit/StrikeDialog.vue'
import VerdictNote from '../../kit/VerdictNote.vue'
import ValveStrip from '../../kit/ValveStrip.vue'
import { useBuild } from '../builds'
import { useKeeper } from '../setup/useKeeper'
import RockerSays from './RockerSays.vue'
import CompareTable from './CompareTable.vue'
import DimensionSheet from './DimensionSheet.vue'
import HalfLift from './HalfLift.vue'
import MarkEntry from './MarkEntry.vue'
import MarkLog from './MarkLog.vue'
import RatioEntry from './RatioEntry.vue'
import { useRocker } from './useRocker'

const props = defineProps<{ buildId: string; valveId: string }>()
const router = useRouter()
const { unit, by } = usePrefs()
const { data: build } = useBuild(() => props.buildId)
const { query, motion, mark, strike, photo } = useRocker(
  () => props.buildId,
  () => props.valveId,
)
const arm = query.data
const batch = motion.data
const keeper = useKeeper(() => props.buildId)
const CLEAR = 0.04

// What is shown: a setting inside the batch and a share of the lobe's lift.
const shown = ref<number | null>(null)
const setting = computed(() => shown.value ?? arm.value?.now_in ?? 0)
const share = ref(0.5)
watch(
  () => [props.valveId, arm.value?.now_in],
  () => (shown.value = null),
)
function show(value: number) {
  const list = batch.value?.settings.setting_in ?? []
  const low = list[0] ?? value
  const high = list[list.length - 1] ?? value
  shown.value = Math.min(Math.max(value, low), high)
}
/** To the next one that can be had. */
function step(by: number) {
  const list = batch.value?.stocked_in ?? []
  const ahead = list.filter((s) => (by > 0 ? s > setting.value + 1e-5 : s < setting.value - 1e-5))
  const next = by > 0 ? ahead[0] : ahead[ahead.length - 1]
  if (next !== undefined) show(next)
}

const frame = computed(() => batch.value && frameAt(batch.value, setting.value, share.value))
const closed = computed(() => batch.value && frameAt(batch.value, arm.value?.now_in ?? 0, 0))
const lift = computed(() => (batch.value ? settingAt(batch.value, 'lift_in', setting.value) : 0))
const at = (name: 'inboard_in' | 'outboard_in', s: number) =>
  batch.value ? settingAt(batch.value, name, s) : 0
const band = computed(() => ({
  low: at('inboard_in', setting.value),
  high: at('outboard_in', setting.value),
}))
const sweep = computed(() => {
  const film = (batch.value?.film_in ?? 0) / 2
  return { low: band.value.low + film, high: band.value.high - film }
})
function curveAt(s: number) {
  const b = batch.value
  if (!b) return null
  const k = placeIn(b.settings.setting_in, s)
  return {
    valve: rowAt(b.valve_in, k),
    contact: rowAt(b.contact_in, k),
    ratio: rowAt(b.ratio, k),
    arm: lineAt(b, s),
  }
}
function lineAt(b: Motion, s: number): number[] {
  const last = b.lobe_in.length - 1
  return b.lobe_in.map((_, i) => frameAt(b, s, i / last).line)
}
const curve = computed(() => curveAt(setting.value))
function toValve(valve: number) {
  const list = curve.value?.valve ?? []
  const above = list.findIndex((v) => v >= valve)
  if (above < 0) share.value = 1
  else if (above === 0) share.value = 0
  else {
    const low = list[above - 1] ?? 0
    const part = (valve - low) / ((list[above] ?? 1) - low)
    share.value = (above - 1 + part) / (list.length - 1)
  }
}

// Play: up and down once in three seconds, by the screen's own clock.
const playing = ref(false)
let phase = 0
const raf = useRafFn(
  ({ delta }) => {
    phase = (phase + delta / 3000) % 1
    share.value = (1 - Math.cos(phase * 2 * Math.PI)) / 2
  },
  { immediate: false },
)
function play() {
  playing.value = !playing.value
  phase = Math.acos(1 - 2 * share.value) / (2 * Math.PI)
  if (playing.value) raf.resume()
  else raf.pause()
}
function stop(value: number) {
  if (playing.value) play()
  share.value = Math.min(Math.max(value, 0), 1)
}

const pins = ref<{ name: string; setting: number }[]>([])
function pin() {
  const free = ['A', 'B'].find((n) => !pins.value.some((p) => p.name === n))
  if (free) pins.value = [...pins.value, { name: free, setting: setting.value }]
  else {
    const [first, last] = pins.value
    if (first && last)
      pins.value = [
        { ...last, name: 'A' },
        { name: 'B', setting: setting.value },
      ]
  }
}
const columns = computed(() => [
  { name: 'On the engine', setting: arm.value?.now_in ?? 0, pinned: false },
  ...(shown.value === null ? [] : [{ name: 'Shown', setting: setting.value, pinned: false }]),
  ...pins.value.map((p) => ({ ...p, pinned: true })),
])
const other = computed(() => {
  const first = pins.value[0]
  if (first) return first.setting
  return shown.value === null ? null : (arm.value?.now_in ?? null)
})
const exact = computed(() => {
  const asked = arm.value?.corrections.find((c) => c.school === arm.value?.figures.school)
  if (!asked || asked.exact_in === null) return null
  return { at: asked.exact_in, spread: 2 * (asked.u_in ?? 0) }
})

const VIEWS = [
  { value: 'rocker', words: 'Rocker' },
  { value: 'tip', words: 'Tip' },
  { value: 'whole', words: 'Whole' },
] as const satisfies { value: string; words: string }[]
const view = ref<'rocker' | 'tip' | 'whole'>('rocker')
const TABS = [
  { value: 'mark', words: 'Mark' },
  { value: 'half', words: 'Half lift' },
  { value: 'ratio', words: 'Ratio' },
  { value: 'sheet', words: 'Dimensions' },
] as const satisfies { value: string; words: string }[]
const tab = ref<(typeof TABS)[number]['value']>('mark')

// The mark being entered, shared by the fields and the drawn tip.
const low = ref('')
const high = ref('')
const from = ref<'middle' | 'edge'>('middle')
const stem = computed(() => arm.value?.figures.stem_in ?? 0.34)
/** Only for the drawing: the server reads what is typed. */
function roughly(text: string): number | null {
  const value = Number(text.trim().replace(',', '.').split(/\s/)[0])
  if (!text.trim() || Number.isNaN(value)) return null
  const inches = /thou/.test(text)
    ? value / 1000
    : unit.value === 'mm' || /mm/.test(text)
      ? value / 25.4
      : value
  return from.value === 'edge' ? inches - stem.value / 2 : inches
}
const edges = computed(() => ({ low: roughly(low.value), high: roughly(high.value) }))
function dragEdge(side: 'low' | 'high', inches: number) {
  tab.value = 'mark'
  const value = from.value === 'edge' ? inches + stem.value / 2 : inches
  const text = unit.value === 'mm' ? (value * 25.4).toFixed(2) : value.toFixed(3)
  if (side === 'low') low.value = text
  else high.value = text
}
const seenMarks = computed(() => {
  const counted = (arm.value?.marks ?? []).filter((m) => !m.struck && m.inboard_in !== null)
  return counted.slice(-3).map((m, i, all) => ({
    number: m.number,
    low: m.inboard_in ?? 0,
    high: m.outboard_in ?? m.inboard_in ?? 0,
    latest: i === all.length - 1,
  }))
})

const problem = ref<Problem | null>(null)
const striking = ref<Mark | null>(null)
async function strikeOut(reason: string) {
  if (striking.value) problem.value = await strike(striking.value.id, reason, by.value)
  striking.value = null
}
function keepSchool(school: 'mid_lift' | 'centred') {
  if (!build.value || !arm.value) return
  const geometry = {
    intake: build.value.geometry?.intake ?? null,
    exhaust: build.value.geometry?.exhaust ?? null,
    [arm.value.valve.kind]: { ...arm.value.figures, school },
  }
  void keeper.keep({ geometry })
}

const valves = computed(() => build.value?.valves ?? [])
function neighbour(by: number) {
  const index = valves.value.findIndex((v) => v.id === props.valveId)
  const to = valves.value[(index + by + valves.value.length) % valves.value.length]
  if (to)
    void router.replace({ name: 'rocker', params: { buildId: props.buildId, valveId: to.id } })
}
const entry = useTemplateRef<InstanceType<typeof MarkEntry>>('entry')
function typeMark() {
  tab.value = 'mark'
  void Promise.resolve().then(() => entry.value?.focus())
}
const asked = () => {
  const c = arm.value?.corrections.find((x) => x.school === arm.value?.figures.school)
  if (c?.rounded_in != null) show(c.rounded_in)
}

useKeys([
  {
    key: 'arrowright',
    shown: '→',
    does: 'Open the valve a little',
    run: () => stop(share.value + 0.02),
  },
  { key: 'arrowleft', shown: '←', does: 'Close it a little', run: () => stop(share.value - 0.02) },
  { key: 'arrowup', shown: '↑', does: 'Next rod or shim up', run: () => step(1) },
  { key: 'arrowdown', shown: '↓', does: 'Next rod or shim down', run: () => step(-1) },
  { key: ' ', shown: 'Space', does: 'Play the lift', run: play },
  { key: 'h', does: 'Half lift', run: () => (stop(0), toValve(lift.value / 2)) },
  { key: 'm', does: 'Enter a mark', run: typeMark },
  { key: 'a', does: 'Show what is asked for', run: asked },
  { key: 'o', does: 'Back to what is on the engine', run: () => (shown.value = null) },
  { key: 'p', does: 'Pin this setting', run: pin },
  {
    key: 'z',
    does: 'Rocker, tip, whole',
    run: () => {
      const index = VIEWS.findIndex((v) => v.value === view.value)
      view.value = VIEWS[(index + 1) % VIEWS.length]?.value ?? 'rocker'
    },
  },
  {
    key: 'x',
    does: 'Strike out the last try',
    run: () => (striking.value = arm.value?.marks.findLast((m) => !m.struck) ?? null),
  },
  { key: 'v', does: 'Next valve', run: () => neighbour(1) },
  { key: 'b', does: 'Valve before', run: () => neighbour(-1) },
])
const shownWords = computed(() =>
  batch.value?.stud
    ? length(setting.value, unit.value)
    : `shim ${small(setting.value, unit.value)}`,
)
const STRIKES = [
  'Misread',
  'Wrong valve',
  'Plunger gave way',
  'Mark smeared',
  'Inboard and outboard swapped',
]
</script>

<template>
  <div v-if="build && arm && batch && frame && closed && curve" class="arm-page">
    <ValveStrip :build="build" :valve-id="valveId" step="rocker" bare>
      <span class="which">
        {{
          arm.stud
            ? 'Stud: the rod’s length sets the fulcrum'
            : 'Fixed fulcrum: shims set its height'
        }}
      </span>
    </ValveStrip>
    <div class="bench">
      <section aria-label="Arm view">
        <ArmView
          :batch="batch"
          :frame="frame"
          :closed="closed"
          :view="view"
          :half="lift / 2"
          :sweep="sweep"
          @lift="stop"
        />
        <div class="move">
          <button type="button" class="plain" :aria-pressed="playing" @click="play">
            {{ playing ? 'Stop' : 'Play' }}
          </button>
          <input
            type="range"
            min="0"
            max="1"
            step="0.005"
            :value="share"
            aria-label="Lift"
            @input="stop(Number(($event.target as HTMLInputElement).value))"
          />
          <output>{{ length(frame.valve, unit) }}</output>
          <ChoiceRow v-model="view" quiet label="View" :options="VIEWS" />
        </div>
      </section>
      <section class="middle" aria-label="Tip and curves">
        <TipView
          :unit="unit"
          :stem="batch.stem_in"
          :contact="frame.contact"
          :band="band"
          :other="
            other === null ? null : { low: at('inboard_in', other), high: at('outboard_in', other) }
          "
          :marks="seenMarks"
          :edges="edges"
          :clear="CLEAR"
          @edge="dragEdge"
        />
        <p class="key">
          <i class="expect" /> to expect <i class="own" /> seen <i class="limit" /> where it may lie
        </p>
        <LiftCurves
          :unit="unit"
          :curve="curve"
          :other="other === null ? null : curveAt(other)"
          :now="{ ...frame, arm: frame.line }"
          :half="lift / 2"
          @valve="toValve"
        />
      </section>
      <section class="entries" aria-label="Verdict and entries">
        <VerdictNote :verdict="arm.verdict" />
        <ChoiceRow v-model="tab" quiet label="Enter" :options="TABS" />
        <MarkEntry
          v-if="tab === 'mark'"
          ref="entry"
          :key="valveId"
          v-model:low="low"
          v-model:high="high"
          v-model:from="from"
          :build="build"
          :arm="arm"
          :keep="mark"
          :upload="photo"
        />
        <HalfLift
          v-else-if="tab === 'half'"
          :key="valveId"
          :arm="arm"
          :keep="mark"
          @valve="toValve"
        />
        <RatioEntry v-else-if="tab === 'ratio'" :key="valveId" :arm="arm" :keep="mark" />
        <DimensionSheet v-else :build="build" :arm="arm" :keeper="keeper" />
        <div class="log" role="group" aria-label="Tries">
          <h3>Tries</h3>
          <ProblemNote :problem="problem" />
          <MarkLog :arm="arm" @strike="striking = $event" />
          <p v-if="arm.untold.length" class="quiet">
            The marks do not tell: {{ arm.untold.join('; ') }}.
          </p>
        </div>
      </section>
      <section class="explore" aria-label="Explorer">
        <h3>
          Explore: {{ shownWords }}
          <button type="button" class="plain" @click="pin">Pin <kbd>P</kbd></button>
          <button v-if="shown !== null" type="button" class="plain" @click="shown = null">
            Back to the engine <kbd>O</kbd>
          </button>
        </h3>
        <SettingCurve
          :unit="unit"
          :stud="batch.stud"
          :settings="batch.settings.setting_in"
          :widths="batch.tip === 'roller' ? batch.settings.width_in : batch.settings.slide_in"
          :refused="batch.settings.refused"
          :least="batch.least_in"
          :stocked="batch.stocked_in"
          :now="arm.now_in"
          :chosen="setting"
          :exact="exact"
          :pins="pins.map((p) => ({ at: p.setting, name: p.name }))"
          @choose="show"
        />
        <p class="quiet under">
          {{ batch.tip === 'roller' ? 'Sweep' : 'Sliding in a cycle' }},
          {{ unit === 'in' ? 'thou' : 'mm' }} over {{ batch.stud ? 'the rod' : 'shim' }}; ▲ can be
          had{{ exact ? `; band: exact ${within(exact.spread, unit)}` : '' }}
        </p>
        <CompareTable
          :batch="batch"
          :columns="columns"
          @show="show"
          @drop="pins = pins.filter((p) => p.name !== $event)"
        />
      </section>
      <section aria-label="What to change">
        <RockerSays :arm="arm" @show="show" @school="keepSchool" />
      </section>
    </div>
    <CautionList :cautions="arm.cautions" />
    <StrikeDialog
      :title="striking ? `Strike out try ${striking.number}` : null"
      :reasons="STRIKES"
      @strike="strikeOut"
      @close="striking = null"
    />
  </div>
  <p v-else-if="query.error.value || motion.error.value" class="away" role="alert">
    {{ problemOf(query.error.value ?? motion.error.value).detail }}
    <RouterLink class="plain" :to="{ name: 'setup', params: { buildId } }">Set-up</RouterLink>
  </p>
  <p v-else class="away">Working the rocker out…</p>
</template>

<style scoped>
.arm-page {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.which {
  margin-left: auto;
  color: var(--quiet);
}
.bench {
  display: grid;
  grid-template-columns: 500px minmax(270px, 330px) minmax(360px, 1fr);
  gap: 10px 20px;
  align-items: start;
  grid-template-rows: auto 1fr;
}
.entries {
  grid-column: 3;
  grid-row: 1 / span 2;
}
.move {
  display: grid;
  grid-template-columns: auto 1fr 84px auto;
  gap: 10px;
  align-items: center;
  padding-top: 6px;
}
.move input {
  width: 100%;
  min-height: 44px;
  accent-color: var(--accent);
}
.move output {
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.move :deep(.choices) {
  flex-wrap: nowrap;
  gap: 4px;
}
.move :deep(.choices .plain) {
  padding: 0 8px;
}
.middle {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.middle :deep(.tip) {
  max-width: 290px;
  margin: 0 auto;
}
.key {
  display: flex;
  gap: 6px 8px;
  justify-content: center;
  align-items: center;
  margin: 0;
  font-size: 13px;
  color: var(--quiet);
}
.key i {
  width: 16px;
  height: 12px;
  border: 1px solid var(--ink);
}
.key .expect {
  background: repeating-linear-gradient(125deg, #c33d12 0 2px, #f3d7c8 2px 5px);
}
.key .own {
  background: #7a8aa0;
}
.key .limit {
  border-style: dashed;
}
.entries {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.entries > :deep(.choices .plain) {
  flex: 1 1 auto;
  padding: 0 8px;
}
h3 {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 0 0 4px;
  font-size: 16px;
  min-height: 44px;
  font-variant-numeric: tabular-nums;
}
h3 .plain:first-of-type {
  margin-left: auto;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
.under {
  margin: 0 0 8px;
}
.away {
  padding: 40px 0;
}
@media (max-width: 1180px) {
  .bench {
    grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr);
    grid-template-rows: none;
  }
  .entries {
    grid-column: 1 / -1;
    grid-row: auto;
  }
}
@media (max-width: 720px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
  .entries {
    order: -1;
  }
  .move {
    grid-template-columns: auto 1fr 84px;
  }
  .which {
    display: none;
  }
}
</style>
