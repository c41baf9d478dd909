<script setup lang="ts">
/** A build's set-up. Every change is kept at once; a refusal stands beside its field. */
import { t } from '../../kit/words'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import {
  answer,
  api,
  problemOf,
  type Build,
  type Layout,
  type Problem,
  type Rules,
} from '../../api/client'
import RodConvention from '../../drawings/RodConvention.vue'
import { isRead } from '../../kit/entries'
import { CONVENTION_LIST, CONVENTIONS, small, smallSpan, turnsWords } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import { useAfterPaint } from '../../kit/afterPaint'
import AskFirst from '../../kit/AskFirst.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import FigureEntry from '../../kit/FigureEntry.vue'
import NumberEntry from '../../kit/NumberEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { useBuild, useInstruments, useRules, type Wanted } from '../builds'
import CamSection from './CamSection.vue'
import FiringSection from './FiringSection.vue'
import InstrumentDialog from './InstrumentDialog.vue'
import FinalSection from './FinalSection.vue'
import PriorSection from './PriorSection.vue'
import StartingSection from './StartingSection.vue'
import { useKeeper } from '../useKeeper'
import TermLink from '../../kit/TermLink.vue'
import PickOne from '../../kit/PickOne.vue'

const props = defineProps<{ buildId: string }>()
const { data: build, error: unread } = useBuild(() => props.buildId)
const { data: instruments, error: toolless } = useInstruments()
const tools = computed(() =>
  (instruments.value ?? [])
    .filter((i) => i.kind !== 'indicator')
    .map((i) => ({ value: i.id, words: i.name })),
)
const { data: rules, error: ruleless } = useRules()
const error = computed(() => unread.value ?? toolless.value ?? ruleless.value)
const layouts = computed(() =>
  (rules.value?.layouts ?? []).map((l) => ({ value: l.layout, words: l.name })),
)
const cylindersOf = (layout: Layout) =>
  rules.value?.layouts.find((l) => l.layout === layout)?.cylinders ?? []
const counts = computed(() =>
  (build.value ? cylindersOf(build.value.layout) : []).map((n) => ({ value: n, words: String(n) })),
)
const keeper = useKeeper(() => props.buildId)
const { keep, refusalOf } = keeper
const { unit } = usePrefs()

// The four preload figures only make sense together, so they are drafted and kept together.
type Window = Pick<Build, 'preload_low_in' | 'preload_high_in' | 'preload_target_in' | 'travel_in'>
const draft = ref<Partial<Window>>({})
const WINDOW = {
  preload_low_in: t('Least preload'),
  preload_high_in: t('Most preload'),
  preload_target_in: t('Aim'),
  travel_in: t('Plunger travel'),
} as const
const windowFields = Object.keys(WINDOW)
const shown = computed(() => ({ ...build.value, ...draft.value }) as Window)
async function keepWindow(values: Partial<Window>) {
  const sent = { ...draft.value, ...values }
  draft.value = sent
  if (!(await keep(sent))) return
  const later = Object.entries(draft.value).filter(([k, v]) => sent[k as keyof Window] !== v)
  draft.value = Object.fromEntries(later)
}

type School = Rules['schools'][number]
function schoolWords(school: School): string {
  if (school.counted_from !== 'clip') return school.name
  const { preload_low_in: low, preload_high_in: high, travel_in: travel } = school
  const of = travel === null ? '' : ` ${t('of {travel}', { travel: small(travel, unit.value) })}`
  return t('{name}: {low} to {high}{of}', {
    name: school.name,
    low: small(low, unit.value),
    high: small(high, unit.value),
    of,
  })
}
const schools = computed(() => [
  { value: 'maker', words: t(`The lifter maker's sheet`) },
  { value: 'turns', words: t('Turns of the fastener') },
  ...(rules.value?.schools ?? []).map((s) => ({ value: s.code, words: schoolWords(s) })),
])
/** A school brings its window; what was drafted of an own one is dropped. */
async function takeSchool(code: string) {
  draft.value = {}
  if (code === 'turns') return keep({ preload_turns: USUAL_TURNS })
  return keep({
    preload_turns: null,
    preload_school: code === 'maker' ? null : (code as School['code']),
  })
}

const USUAL_TURNS = { low: 0.5, high: 1.5, rule: 'lever' } as const
const RULES = [
  { value: 'lever', words: t('Lever rule') },
  { value: 'plain', words: t('Plain rule') },
] as const satisfies { value: string; words: string }[]
const turnsWindow = computed(() => build.value?.preload_turns ?? null)
const keepTurns = (values: Partial<NonNullable<Build['preload_turns']>>) =>
  keep({ preload_turns: (now) => ({ ...(now.preload_turns ?? USUAL_TURNS), ...values }) })
const turnsProblem = ref<Problem | null>(null)
const keepTurnsText = (end: 'low' | 'high', text: string) => isRead(readTurns(end, text))
async function readTurns(end: 'low' | 'high', text: string): Promise<boolean> {
  try {
    const read = await answer(api.POST('/api/compute/turns', { body: { text, bolts: false } }))
    turnsProblem.value = null
    void keepTurns({ [end]: read.turns })
    return true
  } catch (thrown) {
    turnsProblem.value = problemOf(thrown)
    return false
  }
}
const bothRules = computed(() => {
  const { plain, lever } = build.value?.turns_in ?? {}
  const span = (ends?: number[]) => smallSpan(ends?.[0] ?? 0, ends?.[1] ?? 0, unit.value)
  return t('By the lever rule {lever}, by the plain rule {plain} of preload.', {
    lever: span(lever),
    plain: span(plain),
  })
})

// A link to a part of the page finds it once the build is there.
const route = useRoute()
const painted = useAfterPaint(() => build.value && instruments.value && rules.value)
watch(
  painted,
  async (now) => {
    if (!now || !route.hash) return
    await nextTick()
    document.querySelector(route.hash)?.scrollIntoView()
  },
  { immediate: true, flush: 'post' },
)

const name = ref<string | null>(null)
async function keepName() {
  const text = name.value?.trim()
  if (text && (await keep({ name: text }))) name.value = null
}

const adding = ref(false)
const correcting = ref(false)
const dialog = computed({
  get: () => adding.value || correcting.value,
  set: (open) => {
    if (!open) adding.value = correcting.value = false
  },
})
const firstValve = computed(() => build.value?.next_step.valve_id ?? build.value?.valves[0]?.id)
const steps = computed(() =>
  [0.025, 0.05, 0.1, 0.005].map((value) => ({
    value,
    words: `${value === 0.005 ? `${t('made to order,')} ` : ''}${small(value, unit.value)}`,
  })),
)
const BIASES = [
  { value: 'longer', words: t('longer') },
  { value: 'shorter', words: t('shorter') },
] as const satisfies { value: string; words: string }[]
const LIFTERS = [
  { value: 'hydraulic', words: t('Hydraulic') },
  { value: 'solid', words: t('Solid') },
] as const satisfies { value: string; words: string }[]
const FEET = [
  { value: 'flat', words: t('Flat tappet') },
  { value: 'roller', words: t('Roller') },
] as const satisfies { value: string; words: string }[]
const mounts = computed(() =>
  (rules.value?.mounts ?? []).map((m) => ({ value: m.value as Build['mount'], words: m.words })),
)
const pitches = computed(() =>
  (rules.value?.pitches ?? []).map((p) => ({ value: p.pitch_in, words: p.name })),
)
const ENDS = [
  { value: 'ball', words: t('Ball') },
  { value: 'cup', words: t('Cup') },
] as const satisfies { value: string; words: string }[]

function keepLayout(layout: Layout) {
  const allowed = cylindersOf(layout)
  const now = build.value?.cylinders ?? 0
  return keepEngine({ layout, cylinders: allowed.includes(now) ? now : allowed[0] })
}
const hasReadings = computed(() => build.value?.valves.some((v) => v.readings) ?? false)
/** Another engine under readings that were taken: asked first. */
const another = useTemplateRef('another')
async function keepEngine(wanted: Wanted) {
  if (!hasReadings.value || (await another.value?.ask())) await keep(wanted)
}
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <div v-if="build && instruments && rules" class="setup">
    <section>
      <h2>{{ t('Engine') }}</h2>
      <label for="name">{{ t('Name') }}</label>
      <el-input
        id="name"
        :model-value="name ?? build.name"
        maxlength="80"
        autocomplete="off"
        @update:model-value="name = $event"
        @blur="keepName"
        @keydown.enter="keepName"
      />
      <ChoiceRow
        :label="t('Layout')"
        :options="layouts"
        :model-value="build.layout"
        @update:model-value="keepLayout"
      />
      <ChoiceRow
        :label="t('Cylinders')"
        :options="counts"
        :model-value="build.cylinders"
        @update:model-value="keepEngine({ cylinders: $event })"
      />
      <ProblemNote :problem="refusalOf('layout', 'cylinders', 'name')" />
      <div class="pair">
        <FigureEntry
          v-for="kind in ['intake', 'exhaust'] as const"
          :key="kind"
          :label="t('Rocker ratio, {kind}', { kind: t(kind) })"
          :model-value="build[`ratio_${kind}`]"
          :refusal="refusalOf(`ratio_${kind}`)"
          @keep-number="keep({ [`ratio_${kind}`]: $event ?? 0 })"
        />
      </div>
      <div class="pair">
        <FigureEntry
          v-for="kind in ['intake', 'exhaust'] as const"
          :key="kind"
          :label="t('Near closed, measured, {kind}', { kind: t(kind) })"
          optional
          :model-value="build[`r0_${kind}`] ?? null"
          :refusal="refusalOf(`r0_${kind}`)"
          @keep-number="keep({ [`r0_${kind}`]: $event })"
        />
      </div>
      <p class="quiet">
        {{ t('Catalogue ratio:') }} <TermLink term="r0">{{ t('near closed') }}</TermLink>
        {{ t('a usual rocker gives 7 to 12 % more.') }}
      </p>

      <h2>{{ t('Measured with') }}</h2>
      <ChoiceRow
        quiet
        :label="t('Instrument')"
        :options="tools"
        :model-value="build.instrument?.id ?? null"
        @update:model-value="keep({ instrument_id: $event })"
      >
        <button
          type="button"
          class="plain"
          :class="{ strong: !tools.length }"
          @click="adding = true"
        >
          {{ t('Add…') }}
        </button>
        <button v-if="build.instrument" type="button" class="plain" @click="correcting = true">
          {{ t('Correct…') }}
        </button>
      </ChoiceRow>
      <p v-if="build.instrument" class="quiet">
        {{
          t('Its figures are {CONVENTIONS}.', {
            CONVENTIONS: CONVENTIONS[build.instrument.convention],
          })
        }}
        <template v-if="hasReadings">
          {{ t('Correcting it works every counted trial out again.') }}
        </template>
      </p>
      <label class="switch">
        <el-switch
          :model-value="build.gaps"
          :aria-label="t('Feelers at hand')"
          @update:model-value="keep({ gaps: Boolean($event) })"
        />
        {{ t('Feelers at hand: read the gap at the tip of a loose rod (fewer trials)') }}
      </label>

      <h2>{{ t('Rocker') }}</h2>
      <ChoiceRow
        quiet
        :label="t('Mount')"
        :options="mounts"
        :model-value="build.mount"
        @update:model-value="keep({ mount: $event })"
      />
      <ChoiceRow
        :label="t('Fastener thread')"
        :options="pitches"
        :model-value="
          pitches.find((p) => Math.abs(p.value - build.fastener_pitch_in) < 2e-6)?.value ?? null
        "
        @update:model-value="keep({ fastener_pitch_in: $event! })"
      />
      <NumberEntry
        :model-value="build.fastener_pitch_in"
        :label="t('Or another pitch')"
        field="thread_pitch"
        :refusal="refusalOf('fastener_pitch_in')"
        @update:model-value="keep({ fastener_pitch_in: $event! })"
      />
    </section>

    <section>
      <h2>{{ t('Lifter') }}</h2>
      <ChoiceRow
        quiet
        :label="t('Lifter')"
        :options="LIFTERS"
        :model-value="build.lifter_kind"
        @update:model-value="keep({ lifter_kind: $event })"
      />
      <ChoiceRow
        quiet
        :label="t('Foot')"
        :options="FEET"
        :model-value="build.lifter_foot"
        @update:model-value="keep({ lifter_foot: $event })"
      />
      <NumberEntry
        :model-value="build.seat_height_in ?? null"
        :label="t('Seat height, if known')"
        field="seat_height"
        optional
        :refusal="refusalOf('seat_height_in')"
        @update:model-value="keep({ seat_height_in: $event })"
      />
      <NumberEntry
        :model-value="build.checking_seat_in ?? null"
        :label="t('Seat height of the checking lifter, if another')"
        field="seat_height"
        optional
        :refusal="refusalOf('checking_seat_in')"
        @update:model-value="keep({ checking_seat_in: $event })"
      />
      <div v-if="build.lifter_kind === 'solid'" class="pair">
        <NumberEntry
          v-for="kind in ['intake', 'exhaust'] as const"
          :key="kind"
          :model-value="build[`lash_${kind}_in`] ?? null"
          :label="t('Lash, {kind}', { kind: t(kind) })"
          field="lash"
          optional
          :refusal="refusalOf(`lash_${kind}_in`)"
          @update:model-value="keep({ [`lash_${kind}_in`]: $event })"
        />
      </div>
      <template v-if="build.lifter_kind === 'hydraulic'">
        <span class="label">
          {{
            t(
              "Preload school (common practice); the maker's sheet rules and takes over when a figure is typed",
            )
          }}
        </span>
        <PickOne
          :label="t('Preload school')"
          :options="schools"
          :model-value="turnsWindow ? 'turns' : (build.preload_school ?? 'maker')"
          @update:model-value="takeSchool"
        />
        <ProblemNote :problem="refusalOf('preload_school', 'preload_turns')" />
        <template v-if="turnsWindow">
          <div class="pair">
            <FigureEntry
              v-for="end in ['low', 'high'] as const"
              :key="end"
              :label="end === 'low' ? t('Least turns') : t('Most turns')"
              :suffix="t('turns')"
              text
              :model-value="turnsWords(turnsWindow[end])"
              @keep="keepTurnsText(end, $event)"
            />
          </div>
          <ProblemNote :problem="turnsProblem" />
          <ChoiceRow
            :label="t('Turns count by the')"
            :options="RULES"
            :model-value="turnsWindow.rule ?? 'lever'"
            @update:model-value="keepTurns({ rule: $event })"
          />
          <p class="quiet">{{ bothRules }}</p>
        </template>
        <div class="pair">
          <NumberEntry
            v-for="(words, field) in WINDOW"
            :key="field"
            :model-value="shown[field]"
            :label="words"
            :field="field === 'travel_in' ? 'travel' : 'preload'"
            @update:model-value="keepWindow({ [field]: $event ?? 0 })"
          />
        </div>
        <ProblemNote :problem="refusalOf(...windowFields)" />
      </template>

      <h2>{{ t('Order') }}</h2>
      <span class="label"
        >{{ t('Lengths are ordered in (')
        }}<TermLink term="theoretical">{{ t('theoretical') }}</TermLink
        >, <TermLink term="measured">{{ t('measured') }}</TermLink>,
        <TermLink term="gauge">{{ t('gauge length') }}</TermLink>)</span
      >
      <PickOne
        :label="t('Lengths are ordered in')"
        :options="CONVENTION_LIST"
        :model-value="build.order_convention"
        @update:model-value="keep({ order_convention: $event })"
      />
      <ChoiceRow
        :label="t('Stock step')"
        :options="steps"
        :model-value="build.stock_step_in"
        @update:model-value="keep({ stock_step_in: $event! })"
      />
      <NumberEntry
        :model-value="build.stock_step_in"
        :label="t('Or another step')"
        field="stock_step"
        :refusal="refusalOf('stock_step_in')"
        @update:model-value="keep({ stock_step_in: $event! })"
      />
      <ChoiceRow
        :label="t('When two lengths serve alike, take the')"
        :options="BIASES"
        :model-value="build.bias"
        @update:model-value="keep({ bias: $event })"
      />
    </section>

    <section>
      <h2>{{ t('Rod') }}</h2>
      <RodConvention
        :build="build"
        :convention="build.order_convention"
        :reach="build.reach_in[build.order_convention] ?? []"
      />
      <template v-for="end in ['lifter', 'rocker'] as const" :key="end">
        <ChoiceRow
          :label="end === 'lifter' ? t('Lifter end') : t('Rocker end')"
          :options="ENDS"
          :model-value="build[`${end}_end`]"
          @update:model-value="keep({ [`${end}_end`]: $event })"
        />
        <div class="pair">
          <NumberEntry
            :model-value="build[`${end}_ball_in`]"
            :label="build[`${end}_end`] === 'cup' ? t('Ball in the cup') : t('Ball')"
            field="ball"
            :refusal="refusalOf(`${end}_ball_in`)"
            @update:model-value="keep({ [`${end}_ball_in`]: $event })"
          />
          <NumberEntry
            v-if="build[`${end}_end`] === 'ball'"
            :model-value="build[`${end}_hole_in`]"
            :label="t('Oil hole (0 for none)')"
            field="oil_hole"
            :refusal="refusalOf(`${end}_hole_in`)"
            @update:model-value="keep({ [`${end}_hole_in`]: $event })"
          />
        </div>
      </template>
      <NumberEntry
        v-if="build.order_convention === 'gauge' || build.measuring_convention === 'gauge'"
        :model-value="build.gauge_circle_in"
        :label="t('Gauge circle (0.140 is usual, from memory)')"
        field="gauge_circle"
        :refusal="refusalOf('gauge_circle_in')"
        @update:model-value="keep({ gauge_circle_in: $event! })"
      />
      <RouterLink
        v-if="build.instrument && firstValve"
        class="plain strong go"
        :to="{ name: 'zero_lash', params: { buildId, valveId: firstValve } }"
        >{{ t('Find zero lash') }}</RouterLink
      >
      <p v-else class="quiet">{{ t('Choose what measures it to go on.') }}</p>
    </section>
    <FiringSection v-if="painted" :build="build" :keeper="keeper" @engine="keepEngine" />
    <AskFirst
      ref="another"
      :title="t('Readings stand on this engine')"
      :words="
        t(
          'They stay with their valves by cylinder and kind. Stops, heads and what the valves say together follow the engine chosen.',
        )
      "
      :yes="t('Change the engine')"
      :no="t('Leave it')"
    />
    <template v-if="painted">
      <CamSection :build="build" :keeper="keeper" />
      <PriorSection :build="build" :keeper="keeper" />
      <FinalSection :build="build" :keeper="keeper" />
      <StartingSection :build="build" :keeper="keeper" />
    </template>
    <InstrumentDialog
      v-model="dialog"
      :instrument="correcting ? (build.instrument ?? null) : null"
      @kept="$event.kind !== 'indicator' && keep({ instrument_id: $event.id })"
    />
  </div>
</template>

<style scoped src="./section.css"></style>

<style scoped>
.setup {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 36px;
}
.switch {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 44px;
  font-size: 16px;
  color: var(--ink);
}
.go {
  margin-top: 10px;
  min-height: 52px;
}
@container station (max-width: 1060px) {
  .setup {
    grid-template-columns: 1fr 1fr;
    gap: 24px;
  }
}
@container station (max-width: 700px) {
  .setup {
    grid-template-columns: 1fr;
  }
}
</style>
