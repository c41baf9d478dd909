<script setup lang="ts">
/** The bench of a practice engine, beside every station: what hands and tools get of it. */
import { useRafFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Build } from '../../api/client'
import TrainView from '../../drawings/TrainView.vue'
import { bareLength, length } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import DrawnGauge from './DrawnGauge.vue'
import { useBench, useExercise, useTrain } from './usePractice'

const props = defineProps<{ build: Build }>()
const { unit } = usePrefs()
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
const bank = ref('')
watch(
  () => exercise.value?.banks,
  (banks) => banks && !banks.includes(bank.value) && (bank.value = banks[0] ?? ''),
  { immediate: true },
)
const { data: train } = useTrain(id, valve)

// The crank follows the slider at once; where it is left for a moment is what the engine stands at.
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
  const deg = Math.round(crank.value)
  await bench.deed('turn_crank', { to_deg: deg })
  if (deg === Math.round(crank.value)) turning.value = false
}
function turnCrank() {
  turning.value = true
  window.clearTimeout(waits)
  waits = window.setTimeout(() => void stand(), 200)
}
/** Whatever is done is done with the crank where it is seen. */
async function act(...deed: Parameters<typeof bench.deed>) {
  if (waits) await stand()
  return bench.deed(...deed)
}

// A rod that is felt is seen to move as far as it can.
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
  await act('feel')
}

const blades = computed(() => exercise.value?.blades_thou ?? [])
const blade = ref(11)
const blade_thou = computed(() => blades.value[blade.value] ?? 0)
const stack = ref(0)
const feelerThou = computed(() => blade_thou.value + stack.value)
const thicker = (by: number) =>
  (blade.value = Math.min(Math.max(blade.value + by, 0), blades.value.length - 1))
const tryFeeler = () => act('feeler', { blade_in: feelerThou.value / 1000 })

const fitHere = computed(() => exercise.value?.rod_in === valve.value)
const turn = (eighths: number) => act('turn_rod', { eighths })
const TURNS = [
  { eighths: -8, shown: '−1', words: 'A full turn shorter' },
  { eighths: -2, shown: '−¼', words: 'A quarter turn shorter' },
  { eighths: -1, shown: '−⅛', words: 'An eighth turn shorter' },
  { eighths: 1, shown: '+⅛', words: 'An eighth turn longer' },
  { eighths: 2, shown: '+¼', words: 'A quarter turn longer' },
  { eighths: 8, shown: '+1', words: 'A full turn longer' },
]
const DRAWN = [
  { eighths: 1, shown: '⅛', words: 'an eighth turn' },
  { eighths: 4, shown: '½', words: 'half a turn' },
]
const hasOwnRod = computed(() => exercise.value?.bought.some((r) => r.valve === valve.value))
const over = ref('checking rod')
const square = ref(true)
const times = ref(4)

const looking = ref(false)
async function lookAtMark() {
  looking.value = await act('mark')
}
const photo = computed(
  () => `/api/practice/${id.value}/mark.jpg?after=${exercise.value?.deeds ?? 0}`,
)

const naming = ref(false)
const named = ref<string[]>([])
watch(
  () => exercise.value?.named,
  (kinds) => kinds && (named.value = [...kinds]),
  { immediate: true },
)
async function keepNamed() {
  if (await bench.name(named.value as NonNullable<typeof exercise.value>['named']))
    naming.value = false
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
      title: 'Nothing is decided',
      status: 422,
      code: 'undecided',
      detail: 'Nothing is decided yet. Measure both kinds, then look at Decide.',
      context: {},
    }
  } finally {
    buying.value = false
  }
}
const typedRod = ref('')
const wholeKind = ref(true)
const ownRod = computed(() => {
  const own = exercise.value?.bought.find((r) => r.valve === valve.value)
  return own ? bareLength(own.length_in, 'in') : ''
})
async function buyTyped() {
  const kind = props.build.valves.find((v) => v.name === valve.value)?.kind
  const wanted = props.build.valves.filter((v) =>
    wholeKind.value ? v.kind === kind : v.name === valve.value,
  )
  const length_in = Number(typedRod.value.replace(',', '.'))
  await bench.buy(Object.fromEntries(wanted.map((v) => [v.name, length_in])))
}
const complete = computed(() => (exercise.value?.bought.length ?? 0) === props.build.valves.length)
const runs = () => router.push({ name: 'ending', params: { exerciseId: id.value } })

useKeys([
  { key: '[', does: 'Practice: the rod a quarter turn shorter', run: () => void turn(-2) },
  { key: ']', does: 'Practice: the rod a quarter turn longer', run: () => void turn(2) },
  { key: 'j', does: 'Practice: feel the rod', run: () => void feel() },
  { key: 'k', does: 'Practice: try the feeler', run: () => void tryFeeler() },
])
</script>

<template>
  <aside v-if="exercise" class="practice" aria-label="Practice bench">
    <div class="row top">
      <strong>Practice</strong>
      <label class="pick"
        >Valve
        <select v-model="picked" aria-label="Valve in view">
          <option v-for="v in build.valves" :key="v.id" :value="v.name">{{ v.name }}</option>
        </select>
      </label>
      <svg viewBox="-12 -12 24 24" class="mark" role="img" aria-label="Where the rod's mark stands">
        <circle r="10" />
        <line
          x1="0"
          y1="0"
          :x2="9 * Math.sin(exercise.turn_part * 2 * Math.PI)"
          :y2="-9 * Math.cos(exercise.turn_part * 2 * Math.PI)"
        />
      </svg>
      <span class="quiet">{{ exercise.credits_left }} credits</span>
    </div>
    <div class="view">
      <TrainView v-if="train" :train="train" :crank="crank" :moved="moved" :times="times" />
      <label class="times"
        >Play drawn ×
        <select v-model="times" aria-label="Play drawn larger">
          <option :value="1">1</option>
          <option :value="4">4</option>
          <option :value="10">10</option>
        </select>
      </label>
    </div>
    <label class="crank">
      <span>Crank {{ Math.round(crank) }}°</span>
      <input
        v-model.number="crank"
        type="range"
        min="0"
        max="719"
        step="1"
        aria-label="Crank, degrees"
        @input="turnCrank"
      />
    </label>

    <p class="said" role="status">
      <DrawnGauge
        v-if="got?.read_in != null"
        :inches="got.read_in"
        :kind="Math.abs(got.read_in) > 1 ? 'digital' : 'dial'"
      />
      <span v-if="got?.read_deg != null" class="degrees">{{ got.read_deg.toFixed(1) }}°</span>
      <span>{{
        got?.words ?? 'Put the rod in, turn it, feel it. Type what you find at the station.'
      }}</span>
    </p>
    <ProblemNote :problem="problem" />

    <div class="tools">
      <button
        type="button"
        class="plain"
        :class="{ strong: !fitHere }"
        :disabled="fitHere"
        @click="act('fit', { valve })"
      >
        {{ fitHere ? `Rod is in ${valve}` : `Rod into ${valve}` }}
      </button>
      <button type="button" class="plain" @click="act('spin')">Spin it</button>
      <button type="button" class="plain" :class="{ strong: fitHere }" @click="feel">
        Feel it <kbd>J</kbd>
      </button>
      <span class="turn" role="group" aria-label="Turn the checking rod">
        <button
          v-for="t in TURNS"
          :key="t.eighths"
          type="button"
          class="plain"
          :aria-label="t.words"
          @click="turn(t.eighths)"
        >
          {{ t.shown }}
        </button>
      </span>
      <span class="turn" role="group" aria-label="Feelers">
        <button type="button" class="plain" aria-label="Thinner" @click="thicker(-1)">−</button>
        <button type="button" class="plain blade" @click="tryFeeler">
          Feeler {{ feelerThou }}<template v-if="stack"> ({{ blade_thou }} + {{ stack }})</template>
        </button>
        <button type="button" class="plain" aria-label="Thicker" @click="thicker(1)">+</button>
        <button
          type="button"
          class="plain"
          :aria-label="stack ? 'Without the second blade' : 'With a second blade of 50'"
          @click="stack = stack ? 0 : 50"
        >
          {{ stack ? '−50' : '+50' }}
        </button>
      </span>
      <details>
        <summary>More tools</summary>
        <div class="more">
          <label
            >Caliper over
            <select v-model="over" aria-label="What the caliper is put over">
              <option>checking rod</option>
              <option v-for="r in exercise.bought" :key="r.valve" :value="r.valve">
                rod of {{ r.valve }}
              </option>
            </select>
          </label>
          <label><input v-model="square" type="checkbox" /> held square</label>
          <button type="button" class="plain" @click="act('caliper', { over, square })">
            Caliper
          </button>
          <button type="button" class="plain" @click="act('straight_edge', { valve })">
            Straight-edge over {{ valve }}
          </button>
          <button type="button" class="plain" @click="act('watch', { valve })">
            Indicator on {{ valve }}'s lifter
          </button>
          <span v-if="hasOwnRod" class="turn" role="group" aria-label="Fasteners of the rocker">
            <button type="button" class="plain blade" @click="act('back_off', { valve })">
              Back {{ valve }} off
            </button>
            <button
              v-for="t in DRAWN"
              :key="t.eighths"
              type="button"
              class="plain"
              :aria-label="`Draw it down by ${t.words}`"
              @click="act('draw_down', { eighths: t.eighths })"
            >
              {{ t.shown }}
            </button>
          </span>
          <label
            >Rod {{ ownRod ? `of ${ownRod} in` : 'for' }} {{ valve }}, buy
            <input v-model="typedRod" class="length" inputmode="decimal" placeholder="7.400" />
          </label>
          <label><input v-model="wholeKind" type="checkbox" /> for its kind</label>
          <button type="button" class="plain" :disabled="!typedRod" @click="buyTyped">Buy</button>
          <button type="button" class="plain" @click="lookAtMark">Paint, turn, look</button>
          <button type="button" class="plain" @click="act('angle')">Angle of the arm</button>
          <button type="button" class="plain" @click="act('springs')">Thumb on a valve</button>
          <label v-if="exercise.banks.length > 1"
            >Head
            <select v-model="bank" aria-label="Head">
              <option v-for="b in exercise.banks" :key="b">{{ b }}</option>
            </select>
          </label>
          <button type="button" class="plain" @click="act('wrench', { bank })">
            Wrench on the rockers
          </button>
          <button
            v-if="over !== 'checking rod'"
            type="button"
            class="plain"
            @click="act('roll', { rod: over })"
          >
            Roll the rod of {{ over }}
          </button>
        </div>
      </details>
    </div>

    <figure v-if="looking && exercise.marked" class="mark-seen">
      <img :src="photo" alt="The tip with its mark" width="160" height="160" />
      <figcaption>
        The tip is {{ length(exercise.tip_in, unit) }} across; outboard is to the right.
        <a :href="photo" download="mark.jpg">Save the photo</a> and read it off at Rocker.
        <button type="button" class="plain" @click="looking = false">Put away</button>
      </figcaption>
    </figure>
    <div class="row">
      <button type="button" class="plain" :aria-expanded="naming" @click="naming = !naming">
        What is wrong? {{ exercise.named.length || '' }}
      </button>
      <button
        v-if="!exercise.sealed"
        type="button"
        class="plain"
        :disabled="!exercise.hints_left"
        @click="bench.hint()"
      >
        Hint
      </button>
      <button type="button" class="plain" :disabled="busy || buying" @click="buyDecided">
        {{ complete ? 'Buy again' : 'Buy what is decided' }}
      </button>
      <button
        type="button"
        class="plain"
        :class="{ strong: complete }"
        :disabled="!complete"
        @click="runs"
      >
        Run it
      </button>
    </div>
    <ul v-if="exercise.hints.length" class="hints">
      <li v-for="h in exercise.hints" :key="h">{{ h }}</li>
    </ul>
    <fieldset v-if="naming" class="faults">
      <legend>What is wrong with this engine</legend>
      <label v-for="f in exercise.faults" :key="f.kind">
        <input v-model="named" type="checkbox" :value="f.kind" /> {{ f.name }}
      </label>
      <button type="button" class="plain strong" @click="keepNamed">Keep</button>
    </fieldset>
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
.quiet {
  color: var(--quiet);
}
.view {
  position: relative;
  height: 264px;
}
.strong kbd {
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
.tools > .plain {
  flex: 1 1 auto;
  padding: 0 8px;
}
.turn {
  display: flex;
  flex: 1 1 100%;
  align-items: center;
  gap: 4px;
}
.turn .plain {
  flex: 1 1 0;
  min-width: 44px;
  padding: 0 4px;
}
.turn .blade {
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
details {
  flex: 1 1 100%;
}
summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
.more {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
select {
  min-height: 44px;
  color: inherit;
  background: var(--page);
  border: 1px solid var(--rule);
  font: inherit;
}
.times select {
  min-height: 30px;
  color: var(--ink);
}
.length {
  width: 84px;
  height: 44px;
  padding: 0 6px;
  color: inherit;
  background: var(--page);
  border: 1px solid var(--rule);
  font: inherit;
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
.faults {
  display: flex;
  flex-direction: column;
  border: 1px solid var(--rule);
}
.faults label {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 44px;
}
</style>
