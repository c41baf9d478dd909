<script setup lang="ts">
import { language, speak, t } from '../kit/words'
import {
  computed,
  defineAsyncComponent,
  nextTick,
  onScopeDispose,
  ref,
  useTemplateRef,
  watch,
} from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { useEventListener, useTimeout, useTitle } from '@vueuse/core'
import { useRoute } from 'vue-router'
import { IDLE_MS, useAfterPaint } from '../kit/afterPaint'
import BusySign from '../kit/BusySign.vue'
import GaugeStrip from '../kit/GaugeStrip.vue'
import { gaugeWanted } from '../kit/gauge'
import GlossaryDialog from '../kit/GlossaryDialog.vue'
import KeyList from '../kit/KeyList.vue'
import NumberPad from '../kit/NumberPad.vue'
import OutboxNotice from '../kit/OutboxNotice.vue'
import { useOutbox } from '../kit/useOutbox'
import { leaveOnEscape, useKeys } from '../kit/keys'
import { hearLive } from '../kit/live'
import { keepFocus } from '../kit/keptFocus'
import { askMe, locked, me } from '../kit/me'
import OthersHere from '../kit/OthersHere.vue'
import { usePrefs } from '../kit/prefs'
import { steady } from '../kit/press'
import { sayWhere } from '../kit/whereabouts'
import { useWho } from '../kit/who'
import WhoDialog from '../kit/WhoDialog.vue'
import { useBuild, useRules } from '../stations/builds'
import { useTour } from '../stations/practice/tour'
import TourButton from '../stations/practice/TourButton.vue'
import TourStrip from '../stations/practice/TourStrip.vue'

const PairDoor = defineAsyncComponent(() => import('../stations/accounts/PairDoor.vue'))
const SignIn = defineAsyncComponent(() => import('../stations/accounts/SignIn.vue'))
const PracticeBench = defineAsyncComponent(() => import('../stations/practice/PracticeBench.vue'))

const route = useRoute()
const idle = useTimeout(IDLE_MS)
const { unit, dark } = usePrefs()
const { by, open: asking } = useWho()
const listOpen = ref(false)
const buildId = computed(() => String(route.params.buildId ?? ''))

// On a phone the steps scroll sideways; the one in view is brought there.
const station = useTemplateRef<HTMLElement>('station')
const steps = useTemplateRef<HTMLElement>('steps')
watch(
  () => [route.name, steps.value],
  async () => {
    await nextTick()
    const here = steps.value?.querySelector('.router-link-active')
    if (here instanceof HTMLElement && steps.value)
      steps.value.scrollLeft = here.offsetLeft - steps.value.offsetLeft - 80
  },
)

const flipUnit = () => (unit.value = unit.value === 'in' ? 'mm' : 'in')
useKeys([
  { key: '?', does: t('Help'), run: () => (listOpen.value = true) },
  { key: 'u', does: t('Inches or millimetres'), run: flipUnit },
  { key: 'd', does: t('Light or dark'), run: () => (dark.value = !dark.value) },
])

const queries = useQueryClient()
watch(unit, () => queries.invalidateQueries())
useOutbox().start(queries)
void askMe().catch(() => undefined)
watch(locked, (now, _, done) => !now && done(hearLive(queries)), { immediate: true })
sayWhere()

const { data: build } = useBuild(buildId)
/** Renamed and left by a press on a step: the name moves the steps once that has had its click. */
const held = steady(() => build.value)
const title = computed(() => (held.value?.id === buildId.value ? held.value : build.value)?.name)
/** What opens over a page is made when the page has been painted. */
const ready = useAfterPaint(() => build.value ?? (idle.value || !buildId.value))
const { at: tour } = useTour()
const touring = computed(
  () =>
    tour.value.exercise !== '' &&
    [build.value?.exercise_id, route.params.exerciseId].includes(tour.value.exercise),
)

const STATIONS: Record<string, string> = {
  board: t('Builds'),
  setup: t('Set-up'),
  base_circle: t('Base circle'),
  zero_lash: t('Zero lash'),
  rocker: t('Rocker'),
  heads: t('Heads'),
  decide: t('Decide'),
  order: t('Order'),
  sign_off: t('Sign-off'),
  history: t('History'),
  shop_history: t('History of the shop'),
  learned: t('What the shop has learned'),
  people: t('People'),
  pair: t('Pair a device'),
  practice: t('Practice engines'),
  ending: t('The engine runs'),
}
const { data: rules } = useRules(() => listOpen.value || idle.value)
const help = computed(() => {
  const name = String(route.name)
  const found = rules.value?.help.find((h) => h.station === name)
  return {
    station: STATIONS[name] ?? 'Vivid Arm',
    steps: found?.steps ?? [],
    cautions: found?.cautions ?? [],
  }
})
useEventListener('keydown', leaveOnEscape)
onScopeDispose(keepFocus())
useTitle(
  computed(() => {
    const valve = build.value?.valves.find((v) => v.id === route.params.valveId)?.name
    const station = STATIONS[String(route.name)]
    const here = [station, valve].filter(Boolean).join(' ')
    return [here, buildId.value && build.value?.name, 'Vivid Arm'].filter(Boolean).join(' · ')
  }),
)

const valveId = computed(
  () =>
    String(route.params.valveId ?? '') ||
    build.value?.next_step.valve_id ||
    build.value?.valves[0]?.id ||
    '',
)
/** Past the header to the station's main field; where it has none, to the station. */
function skip() {
  const main = station.value?.querySelector<HTMLElement>('[data-main]')
  ;(main ?? station.value)?.focus()
}
</script>

<template>
  <a class="skip" href="#station" @click.prevent="skip">{{ t('Skip to the station') }}</a>
  <BusySign />
  <header :inert="locked || route.name === 'pair'">
    <RouterLink to="/" class="brand" :aria-label="t('Vivid Arm: builds')">
      <svg viewBox="0 0 40 24" aria-hidden="true">
        <path d="M3 18 L18 7 L36 13" />
        <circle cx="18" cy="7" r="4.5" />
      </svg>
      <span>Vivid Arm</span>
    </RouterLink>
    <template v-if="buildId && build">
      <h1 class="build">{{ title }}</h1>
      <strong v-if="build.exercise_id" class="practice-mark">{{ t('Practice') }}</strong>
      <nav ref="steps" :aria-label="t('Steps')">
        <RouterLink :to="{ name: 'setup', params: { buildId } }">{{ t('Set-up') }}</RouterLink>
        <RouterLink :to="{ name: 'base_circle', params: { buildId } }">{{
          t('Base circle')
        }}</RouterLink>
        <RouterLink
          :to="{ name: 'zero_lash', params: { buildId, valveId } }"
          :class="{ 'router-link-active': route.name === 'zero_lash' }"
          >{{ t('Zero lash') }}</RouterLink
        >
        <RouterLink
          :to="{ name: 'rocker', params: { buildId, valveId } }"
          :class="{ 'router-link-active': route.name === 'rocker' }"
          >{{ t('Rocker') }}</RouterLink
        >
        <RouterLink :to="{ name: 'heads', params: { buildId } }">{{ t('Heads') }}</RouterLink>
        <RouterLink :to="{ name: 'decide', params: { buildId } }">{{ t('Decide') }}</RouterLink>
        <RouterLink :to="{ name: 'order', params: { buildId } }">{{ t('Order') }}</RouterLink>
        <RouterLink :to="{ name: 'sign_off', params: { buildId } }">{{ t('Sign-off') }}</RouterLink>
        <RouterLink :to="{ name: 'history', params: { buildId } }">{{ t('History') }}</RouterLink>
      </nav>
    </template>
    <OutboxNotice />
    <div class="prefs">
      <RouterLink v-if="me.name" class="plain by" :to="{ name: 'people' }">
        <span class="unseen">{{ `${t('Signed in as')} ` }}</span>{{ me.name }}
      </RouterLink>
      <button v-else type="button" class="plain by" @click="asking = true">
        <span class="unseen">{{ `${t('Measured by')} ` }}</span>{{ by || t('Who?') }}
      </button>
      <button type="button" class="plain" @click="flipUnit">
        <span class="unseen">{{ `${t('Unit, switch:')} ` }}</span><span
          :class="{ on: unit === 'in' }"
          >in</span
        >
        <span :class="{ on: unit === 'mm' }">mm</span>
      </button>
      <button type="button" class="plain" @click="speak(language === 'en' ? 'de' : 'en')">
        <span class="unseen">{{ `${t('Language, switch:')} ` }}</span><span
          lang="en"
          :class="{ on: language === 'en' }"
          >en</span
        >
        <span lang="de" :class="{ on: language === 'de' }">de</span>
      </button>
      <button
        type="button"
        class="plain"
        :aria-label="dark ? t('Light') : t('Dark')"
        @click="dark = !dark"
      >
        <svg class="half" viewBox="0 0 20 20" aria-hidden="true">
          <circle cx="10" cy="10" r="7.5" />
          <path d="M10 2.5 a7.5 7.5 0 0 1 0 15 Z" />
        </svg>
      </button>
      <button type="button" class="plain" :aria-label="t('Keys')" @click="listOpen = true">
        ?
      </button>
    </div>
  </header>
  <main :class="{ practising: build?.exercise_id }" :inert="locked || route.name === 'pair'">
    <div id="station" ref="station" class="here" tabindex="-1">
      <TourStrip v-if="touring" :build="build" />
      <OthersHere v-if="me.name && buildId" :build-id="buildId" />
      <RouterView />
    </div>
    <PracticeBench v-if="buildId && build?.exercise_id" :build="build" />
  </main>
  <GaugeStrip v-if="gaugeWanted" />
  <template v-if="ready">
    <NumberPad />
    <GlossaryDialog />
    <WhoDialog />
    <KeyList v-model="listOpen" v-bind="help"><TourButton @begun="listOpen = false" /></KeyList>
  </template>
  <PairDoor v-if="route.name === 'pair'" />
  <SignIn v-else-if="locked" />
</template>

<style scoped>
.skip {
  position: absolute;
  left: -9999px;
}
.skip:focus {
  left: 8px;
  top: 4px;
  z-index: 10;
  padding: 12px 16px;
  color: var(--page);
  background: var(--ink);
}
.here:focus {
  outline: none;
}
header {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px 10px;
  padding: 4px 20px;
  border-bottom: 2px solid var(--ink);
}
.brand {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 44px;
  font-weight: 600;
  font-size: 19px;
  text-decoration: none;
}
.brand svg {
  width: 40px;
}
.brand path {
  fill: none;
  stroke: var(--accent);
  stroke-width: 5;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.brand circle {
  fill: var(--page);
  stroke: var(--ink);
  stroke-width: 2;
}
.build {
  margin: 0;
  font-weight: 400;
  font-size: 18px;
  line-height: 1.15;
  max-width: 150px;
  padding-left: 14px;
  border-left: 1px solid var(--rule);
}
.practice-mark {
  padding: 2px 8px;
  color: var(--page);
  background: var(--ink);
}
nav {
  display: flex;
}
nav a {
  min-height: 44px;
  padding: 0 8px;
  line-height: 44px;
  text-decoration: none;
  border-bottom: 4px solid transparent;
}
nav .router-link-active {
  font-weight: 600;
  border-bottom-color: var(--accent);
}
.prefs {
  margin-left: auto;
  display: flex;
  align-items: center;
  gap: 4px;
}
.half {
  width: 20px;
  display: block;
}
.half circle {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
}
.half path {
  fill: var(--ink);
}
.prefs .plain span {
  color: var(--quiet);
  font-weight: 400;
}
.prefs .plain .on {
  color: var(--ink);
  font-weight: 600;
  border-bottom: 2px solid var(--accent);
}
.by {
  position: relative;
  display: inline-block;
  line-height: 42px;
  padding-top: 0;
  padding-bottom: 0;
  max-width: 110px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
main {
  padding: 6px 20px 28px;
  max-width: 1640px;
  margin: 0 auto;
}
.here {
  container: station / inline-size;
}
.practising {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 14px;
  align-items: start;
}
@media (max-width: 1100px) {
  .practising {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 1500px) {
  .brand:has(~ .build) span {
    display: none;
  }
}
@media (max-width: 720px) {
  header {
    padding: 2px 10px;
    gap: 0 10px;
  }
  main {
    padding-left: 10px;
    padding-right: 10px;
  }
  .build + nav,
  nav {
    order: 3;
    width: 100%;
  }
  nav {
    overflow-x: auto;
  }
  nav a {
    padding: 0 8px;
    white-space: nowrap;
  }
  .build {
    border-left: 0;
    padding-left: 0;
    flex: 1;
  }
  .brand:has(~ .build) span,
  [aria-label='Keys'] {
    display: none;
  }
}
</style>
