<script setup lang="ts">
/** The base circle: where every valve may be measured, and where to stop the crank for it. */
import { t } from '../../kit/words'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { problemOf } from '../../api/client'
import CrankWheel from '../../drawings/CrankWheel.vue'
import CautionList from '../../kit/CautionList.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import FigureEntry from '../../kit/FigureEntry.vue'
import { useKeys } from '../../kit/keys'
import { useBuild, useRules } from '../builds'
import { useKeeper } from '../useKeeper'
import { useCrank } from './crank'
import { useFollowed } from './followed'
import OnHeel from './OnHeel.vue'
import StopList from './StopList.vue'
import {
  isDone,
  marginAt,
  useBaseCircle,
  useChosen,
  type Closing,
  type Selection,
} from './useBaseCircle'
import TermLink from '../../kit/TermLink.vue'

const props = defineProps<{ buildId: string }>()
const router = useRouter()
const { data: build } = useBuild(() => props.buildId)
const { data: rules } = useRules()
const keeper = useKeeper(() => props.buildId)

const { crank, turn } = useCrank(() => props.buildId)

const { follow } = useFollowed(() => props.buildId)
const { selection, cylinder, closing, school } = useChosen(() => props.buildId)
const { data: wheel, error } = useBaseCircle(
  () => props.buildId,
  () => ({ selection: selection.value, cylinder: cylinder.value, closing: closing.value }),
)

const plan = computed(() => {
  const plans = wheel.value?.plans ?? []
  return plans.find((p) => p.school === school.value) ?? plans.find((p) => p.stops.length) ?? null
})
const chosen = computed({
  get: () => plan.value?.school ?? null,
  set: (value) => (school.value = value),
})

const measured = computed(() => wheel.value?.measured ?? [])
const current = ref(0)
watch([() => plan.value?.school, selection, cylinder], () => {
  const first = plan.value?.stops.findIndex((s) => !isDone(s, measured.value)) ?? 0
  current.value = Math.max(first, 0)
})
const stop = computed(() => plan.value?.stops[current.value] ?? null)

function goTo(index: number) {
  const stops = plan.value?.stops ?? []
  if (!stops.length) return
  current.value = (index + stops.length) % stops.length
  const at = stops[current.value]?.crank_deg
  if (at !== null && at !== undefined) turn(at)
}
function measure(name?: string) {
  const names = stop.value?.valves.map((v) => v.name) ?? []
  const wanted = name ?? names.find((n) => !measured.value.includes(n)) ?? names[0]
  const valve = build.value?.valves.find((v) => v.name === wanted)
  if (plan.value && plan.value.state !== 'unsafe') follow(plan.value.title, plan.value.stops)
  if (valve)
    void router.push({
      name: 'zero_lash',
      params: { buildId: props.buildId, valveId: valve.id },
    })
}

const heels = computed(() => {
  const order = new Map((wheel.value?.tdcs ?? []).map((t, i) => [t.cylinder, i]))
  const sorted = [...(wheel.value?.windows ?? [])].sort(
    (a, b) => (order.get(a.cylinder) ?? 0) - (order.get(b.cylinder) ?? 0),
  )
  return sorted.map((w) => ({
    name: w.name,
    cylinder: w.cylinder,
    kind: w.kind,
    from: w.from_deg,
    to: w.to_deg,
  }))
})
const spokes = computed(() =>
  (plan.value?.stops ?? []).flatMap((s, i) =>
    s.crank_deg === null
      ? []
      : [{ at: s.crank_deg, label: String(i + 1), done: isDone(s, measured.value) }],
  ),
)
const atStop = computed(
  () => stop.value?.crank_deg !== null && Math.abs((stop.value?.crank_deg ?? -9) - crank.value) < 1,
)
const lit = computed(() => (atStop.value ? (stop.value?.valves.map((v) => v.name) ?? []) : []))
const standing = computed(() =>
  (wheel.value?.windows ?? []).map((w) => ({
    name: w.name,
    kind: w.kind,
    margin: marginAt(w, crank.value),
  })),
)

const SELECTIONS = [
  { value: 'all', words: t('All') },
  { value: 'corners', words: t('Four corners') },
  { value: 'cylinder', words: t('One cylinder') },
] as const satisfies { value: Selection; words: string }[]
const schools = computed(() =>
  (wheel.value?.plans ?? []).map((p) => ({ value: p.school, words: p.title })),
)
const closings = computed(() =>
  (rules.value?.closings ?? []).map((c) => ({ value: c.value as Closing, words: c.words })),
)
function nextSchool() {
  const at = schools.value.findIndex((s) => s.value === chosen.value)
  const next = schools.value[(at + 1) % schools.value.length]
  if (next) school.value = next.value
}
const keepGuard = (value: number | null) => keeper.keep({ guard_deg: value ?? 0 })

useKeys([
  { key: 'arrowright', shown: '→', does: t('Crank on by 5°'), run: () => turn(crank.value + 5) },
  { key: 'arrowleft', shown: '←', does: t('Crank back by 5°'), run: () => turn(crank.value - 5) },
  {
    key: 'shift+arrowright',
    shown: t('Shift →'),
    does: t('On by 1°'),
    run: () => turn(crank.value + 1),
  },
  {
    key: 'shift+arrowleft',
    shown: t('Shift ←'),
    does: t('Back by 1°'),
    run: () => turn(crank.value - 1),
  },
  { key: '+', does: t('On by 90°'), run: () => turn(crank.value + 90) },
  { key: '-', shown: '−', does: t('Back by 90°'), run: () => turn(crank.value - 90) },
  {
    key: 'n',
    does: t('Next stop'),
    run: () => goTo(atStop.value ? current.value + 1 : current.value),
  },
  { key: 'b', does: t('Stop before'), run: () => goTo(current.value - 1) },
  { key: 's', does: t('Next school'), run: nextSchool },
  {
    key: 'c',
    does: t('Four corners or all'),
    run: () => (selection.value = selection.value === 'corners' ? 'all' : 'corners'),
  },
  {
    key: 'enter',
    shown: t('Enter'),
    does: t('Measure the next valve of this stop'),
    run: () => measure(),
  },
])
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <div v-if="build && wheel" class="base">
    <section class="drawing" :aria-label="t('Crank wheel')">
      <CrankWheel
        :crank="crank"
        :guard="wheel.guard_deg"
        :heels="heels"
        :tdcs="wheel.tdcs.map((t) => ({ cylinder: t.cylinder, at: t.crank_deg }))"
        :spokes="spokes"
        :lit="lit"
        :rotation="wheel.rotation"
        @turn="turn"
      />
      <div class="under">
        <FigureEntry
          :label="t('Crank')"
          suffix="°"
          :model-value="crank"
          @keep-number="turn($event ?? 0)"
        />
        <FigureEntry
          :label="t('Guard at each end')"
          suffix="°"
          :model-value="wheel.guard_deg"
          :refusal="keeper.refusalOf('guard_deg')"
          @keep-number="keepGuard"
        />
        <p class="quiet">
          {{
            t(
              'Turns {rotation}, seen from the front. 0° is cylinder {cylinder} at TDC, firing stroke. {lobes}',
              {
                rotation: wheel.rotation === 'clockwise' ? t('clockwise') : t('anticlockwise'),
                cylinder: wheel.tdcs[0]?.cylinder,
                lobes: wheel.lobes,
              },
            )
          }}
        </p>
        <RouterLink
          v-if="!wheel.windows.length"
          class="plain card"
          :to="{ name: 'setup', params: { buildId }, hash: '#cam' }"
          >{{ t('Enter the cam card') }}</RouterLink
        >
      </div>
    </section>
    <section class="plan" :aria-label="t('Plan of stops')">
      <div class="choices">
        <ChoiceRow v-model="selection" quiet :label="t('Valves')" :options="SELECTIONS" />
        <select
          v-if="selection === 'cylinder'"
          v-model.number="cylinder"
          class="plain"
          :aria-label="t('Cylinder')"
        >
          <option v-for="c in build.cylinders" :key="c" :value="c">{{ c }}</option>
        </select>
      </div>
      <span class="words"
        ><TermLink term="school">{{ t('School') }}</TermLink
        >{{ t(', each valve on its') }} <TermLink term="heel">{{ t('heel') }}</TermLink></span
      >
      <ChoiceRow v-model="chosen" quiet :label="t('School')" :options="schools" />
      <ChoiceRow
        v-if="chosen === 'opening_closing'"
        v-model="closing"
        :label="t('Exhausts are measured while the intake')"
        :options="closings"
      />
      <div
        v-if="plan"
        class="verdict"
        :class="plan.state"
        :role="plan.state === 'unsafe' ? 'alert' : 'status'"
      >
        <p class="what">{{ plan.sentence }}</p>
        <p v-if="plan.saves" class="saves">{{ plan.saves }}.</p>
        <RouterLink
          v-if="plan.stops.length && plan.stops.every((s) => isDone(s, measured))"
          class="plain strong"
          :to="{ name: 'rocker', params: { buildId, valveId: build.valves[0]?.id ?? '' } }"
          >{{ t('Every valve of the plan measured: Rocker') }}</RouterLink
        >
      </div>
      <p
        v-for="p in wheel.plans.filter((p) => p.state === 'unsafe' && p !== plan)"
        :key="p.school"
        class="other"
      >
        {{ p.title }}: {{ p.sentence }}
      </p>
      <StopList
        v-if="plan"
        :plan="plan"
        :measured="measured"
        :current="current"
        @go="goTo"
        @measure="measure"
      />
    </section>
    <section class="now" :aria-label="t('On the heel now')">
      <OnHeel :standing="standing" :guard="wheel.guard_deg" :crank="crank" @measure="measure" />
      <CautionList :cautions="wheel.cautions" />
    </section>
  </div>
  <p v-else class="away">{{ t('Reading the build…') }}</p>
</template>

<style scoped>
.base {
  display: grid;
  grid-template-columns: minmax(420px, 604px) minmax(300px, 1fr) 190px;
  gap: 24px;
  align-items: start;
}
.under {
  display: grid;
  grid-template-columns: 110px 130px 1fr;
  gap: 14px;
  align-items: start;
}
.quiet {
  margin: 0;
  font-size: 14px;
  line-height: 1.3;
  color: var(--quiet);
}
.under .card {
  grid-column: 1 / -1;
}
.plan {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.verdict {
  border-left: 5px solid var(--rule);
  padding: 2px 0 2px 14px;
}
.verdict p {
  margin: 0;
}
.what {
  font-size: 20px;
  font-weight: 600;
  line-height: 1.2;
}
.safe {
  border-left-color: var(--good);
}
.near {
  border-left-color: var(--accent);
}
.unsafe {
  border-left: 5px double var(--alarm);
}
.other {
  margin: 0;
  color: var(--alarm-ink);
  font-size: 15px;
}
.away {
  padding: 40px 0;
}
@container station (max-width: 1060px) {
  .base {
    grid-template-columns: minmax(0, 1.2fr) minmax(0, 1fr);
  }
  .now {
    grid-column: 1 / -1;
  }
}
@container station (max-width: 700px) {
  .base {
    grid-template-columns: minmax(0, 1fr);
  }
  .under {
    grid-template-columns: 1fr 1fr;
  }
  .under .quiet {
    grid-column: 1 / -1;
  }
}
</style>
