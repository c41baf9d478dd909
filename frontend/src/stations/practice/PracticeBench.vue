<script setup lang="ts">
/** The bench of a practice engine, beside every station: what hands and tools get of it. */
import { t } from '../../kit/words'
import { useRafFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Build, Exercise } from '../../api/client'
import TrainView from '../../drawings/TrainView.vue'
import { length, degrees } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import DrawnGauge from './DrawnGauge.vue'
import DrawnVernier from './DrawnVernier.vue'
import DrawnWrench from './DrawnWrench.vue'
import HandTools from './HandTools.vue'
import MoreTools from './MoreTools.vue'
import NamedFaults from './NamedFaults.vue'
import { sound, useSound } from './sound'
import { useBench, useExercise, useTrain } from './usePractice'

const props = defineProps<{ build: Build }>()
const { unit } = usePrefs()
const sounds = useSound()
const route = useRoute()
const router = useRouter()
const id = computed(() => props.build.exercise_id ?? '')
const { data: exercise } = useExercise(id)
const bench = useBench(id)
const { got, problem, busy } = bench

const picked = ref(props.build.valves[0]?.name ?? '')
const here = computed(() => props.build.valves.find((v) => v.id === route.params.valveId)?.name)
watch(here, (name) => name && (picked.value = name), { immediate: true })
const valve = computed(() => picked.value)
const { data: train } = useTrain(id, valve)

// The crank follows the hand at once; where it is left for a moment is what the engine stands at.
const crank = ref(0)
const turning = ref(false)
watch(
  () => exercise.value?.crank_deg,
  (deg) => {
    if (deg !== undefined && !turning.value) crank.value = deg
  },
  { immediate: true },
)
let waits = 0
async function stand() {
  window.clearTimeout(waits)
  waits = 0
  const deg = Math.round(crank.value) % 720
  await bench.deed('turn_crank', { to_deg: deg })
  if (deg === Math.round(crank.value) % 720) turning.value = false
}
function turnCrank() {
  turning.value = true
  window.clearTimeout(waits)
  waits = window.setTimeout(() => void stand(), 200)
}
function turnBy(deg: number) {
  crank.value = (((crank.value + deg) % 720) + 720) % 720
  turnCrank()
}
/** Whatever is done is done with the crank where it is seen. */
async function act(...deed: Parameters<typeof bench.deed>) {
  if (waits) await stand()
  return bench.deed(...deed)
}

// A rod that is felt is seen to move as far as it can, and heard where that is switched on.
const moved = ref(0)
let begun = 0
const { pause, resume } = useRafFn(
  ({ timestamp }) => {
    begun ||= timestamp
    const t = (timestamp - begun) / 700
    moved.value = t >= 1 ? 0 : Math.abs(Math.sin(t * Math.PI * 2))
    if (t >= 1) {
      begun = 0
      pause()
    }
  },
  { immediate: false },
)
const still = window.matchMedia('(prefers-reduced-motion: reduce)')
async function feel() {
  if (!still.matches) resume()
  if ((await act('feel')) && got.value?.felt) sound(got.value.felt)
}
const times = ref(4)
const long = computed(() => Math.abs(got.value?.read_in ?? 0) > 1)
const vernier = ref(false)

const looking = ref(false)
async function lookAtMark() {
  looking.value = await act('mark')
}
const photo = computed(
  () => `/api/practice/${id.value}/mark.jpg?after=${exercise.value?.deeds ?? 0}`,
)

const naming = ref(false)
async function keepNamed(kinds: Exercise['named']) {
  if (await bench.name(kinds)) naming.value = false
}

const buying = ref(false)
async function buyDecided() {
  buying.value = true
  try {
    const rods = await bench.decided(props.build.id)
    if (Object.keys(rods).length) await bench.buy(rods)
  } catch {
    problem.value = {
      type: 'about:blank',
      title: t('Nothing is decided'),
      status: 422,
      code: 'undecided',
      detail: t('Nothing is decided yet. Measure both kinds, then look at Decide.'),
      context: {},
    }
  } finally {
    buying.value = false
  }
}
const complete = computed(() => (exercise.value?.bought.length ?? 0) === props.build.valves.length)
const runs = () => router.push({ name: 'ending', params: { exerciseId: id.value } })
</script>

<template>
  <aside v-if="exercise" class="practice" :aria-label="t('Practice bench')">
    <div class="row top">
      <strong>{{ t('Practice') }}</strong>
      <label class="pick"
        >{{ t('Valve') }}
        <select v-model="picked" :aria-label="t('Valve in view')">
          <option v-for="v in build.valves" :key="v.id" :value="v.name">{{ v.name }}</option>
        </select>
      </label>
      <svg
        viewBox="-12 -12 24 24"
        class="mark"
        role="img"
        :aria-label="t(`Where the rod's mark stands`)"
      >
        <circle r="10" />
        <line
          x1="0"
          y1="0"
          :x2="9 * Math.sin(exercise.turn_part * 2 * Math.PI)"
          :y2="-9 * Math.cos(exercise.turn_part * 2 * Math.PI)"
        />
      </svg>
      <span class="quiet">{{
        t('{credits_left} credits', { credits_left: exercise.credits_left })
      }}</span>
    </div>
    <div class="view">
      <TrainView
        v-if="train"
        :train="train"
        :crank="crank"
        :moved="moved"
        :times="times"
        @turn="turnBy"
      />
      <button
        type="button"
        class="plain sound"
        :aria-pressed="sounds"
        :aria-label="t('Sound')"
        @click="sounds = !sounds"
      >
        {{ sounds ? t('Sound on') : t('Sound') }}
      </button>
      <label class="times"
        >{{ t('Play drawn ×') }}
        <select v-model="times" :aria-label="t('Play drawn larger')">
          <option :value="1">1</option>
          <option :value="4">4</option>
          <option :value="10">10</option>
        </select>
      </label>
    </div>
    <label class="crank">
      <span>{{ t('Crank {crank}°', { crank: Math.round(crank) }) }}</span>
      <input
        v-model.number="crank"
        type="range"
        min="0"
        max="719"
        step="1"
        :aria-label="t('Crank, degrees')"
        @input="turnCrank"
      />
    </label>

    <p class="said" role="status">
      <DrawnVernier v-if="got?.read_in != null && long && vernier" :inches="got.read_in" />
      <DrawnGauge
        v-else-if="got?.read_in != null"
        :inches="got.read_in"
        :kind="long ? 'digital' : 'dial'"
      />
      <DrawnWrench v-if="got?.read_lbf_ft != null" :torque="got.read_lbf_ft" />
      <span v-if="got?.read_deg != null" class="degrees">{{ degrees(got.read_deg) }}</span>
      <span>{{
        got?.words ?? t('Put the rod in, turn it, feel it. Type what you find at the station.')
      }}</span>
    </p>
    <ProblemNote :problem="problem" />

    <div class="tools">
      <HandTools :exercise="exercise" :valve="valve" :act="act" @feel="feel" />
      <MoreTools
        v-model:vernier="vernier"
        :exercise="exercise"
        :build="build"
        :valve="valve"
        :act="act"
        :buy="bench.buy"
        @mark="lookAtMark"
      />
    </div>

    <figure v-if="looking && exercise.marked" class="mark-seen">
      <img :src="photo" :alt="t('The tip with its mark')" width="160" height="160" />
      <figcaption>
        {{
          t('The tip is {tip} across; outboard is to the right.', {
            tip: length(exercise.tip_in, unit),
          })
        }}
        <a :href="photo" download="mark.jpg">{{ t('Save the photo') }}</a>
        {{ t('and read it off at Rocker.') }}
        <button type="button" class="plain" @click="looking = false">{{ t('Put away') }}</button>
      </figcaption>
    </figure>
    <div class="row">
      <button type="button" class="plain" :aria-expanded="naming" @click="naming = !naming">
        {{ t('What is wrong? {named}', { named: exercise.named.length || '' }) }}
      </button>
      <button
        v-if="!exercise.sealed"
        type="button"
        class="plain"
        :disabled="!exercise.hints_left"
        @click="bench.hint()"
      >
        {{ t('Hint') }}
      </button>
      <button type="button" class="plain" :disabled="busy || buying" @click="buyDecided">
        {{ complete ? t('Buy again') : t('Buy what is decided') }}
      </button>
      <button
        type="button"
        class="plain"
        :class="{ strong: complete }"
        :disabled="!complete"
        @click="runs"
      >
        {{ t('Run it') }}
      </button>
    </div>
    <ul v-if="exercise.hints.length" class="hints">
      <li v-for="h in exercise.hints" :key="h">{{ h }}</li>
    </ul>
    <NamedFaults v-if="naming" :exercise="exercise" @keep="keepNamed" />
  </aside>
</template>

<style scoped>
.practice {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px;
  background: var(--paper);
  border: 1px solid var(--rule);
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.row .plain {
  flex: 1 1 auto;
  padding: 0 8px;
}
.top .quiet {
  margin-left: auto;
}
.sound {
  position: absolute;
  left: 6px;
  bottom: 6px;
}
.quiet {
  color: var(--quiet);
}
.view {
  position: relative;
  height: 264px;
}
.tools :deep(.strong kbd) {
  color: inherit;
  border-color: currentcolor;
  background: none;
}
.times {
  position: absolute;
  right: 6px;
  bottom: 4px;
  font-size: 13px;
  color: var(--scribe);
}
.crank {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
}
.crank input {
  width: 100%;
  height: 44px;
  accent-color: var(--accent);
}
.said {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 46px;
  margin: 0;
  line-height: 1.2;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}
.tools > :deep(.plain) {
  flex: 1 1 auto;
  padding: 0 8px;
}
.tools :deep(.turn) {
  display: flex;
  flex: 1 1 100%;
  align-items: center;
  gap: 4px;
}
.tools :deep(.turn .plain) {
  flex: 1 1 0;
  min-width: 44px;
  padding: 0 4px;
}
.tools :deep(.turn .wide) {
  flex: 3 1 0;
}
.mark {
  width: 38px;
  height: 38px;
}
.mark circle {
  fill: var(--steel);
  stroke: var(--ink);
}
.mark line {
  stroke: #1c2226;
  stroke-width: 2.5;
}
.practice .times select {
  min-height: 30px;
  color: var(--ink);
}
.degrees {
  font:
    600 22px ui-monospace,
    monospace;
  padding: 2px 8px;
  border: 1px solid var(--rule);
}
.mark-seen {
  display: flex;
  gap: 8px;
  margin: 0;
}
.hints {
  margin: 0;
  padding-left: 18px;
}
</style>
