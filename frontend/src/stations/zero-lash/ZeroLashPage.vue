<script setup lang="ts">
/** The zero-lash station: set the rod, feel it, and watch the bracket close on the ladder. */
import { useStorage } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, problemOf, type Feel, type LogLine, type Problem } from '../../api/client'
import LengthLadder, { type LadderTrial } from '../../drawings/LengthLadder.vue'
import TurnDial from '../../drawings/TurnDial.vue'
import FeelGlyph from '../../kit/FeelGlyph.vue'
import FigureButton from '../../kit/FigureButton.vue'
import { CONVENTIONS, length, small, turnsWords } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import ValveToken from '../../kit/ValveToken.vue'
import VerdictNote from '../../kit/VerdictNote.vue'
import { useBuild } from '../builds'
import { ladderOf } from '../ladder'
import StrikeDialog from './StrikeDialog.vue'
import TrialLog from './TrialLog.vue'
import { useStation } from './useStation'

const props = defineProps<{ buildId: string; valveId: string }>()
const router = useRouter()
const { unit, by } = usePrefs()

const { data: build } = useBuild(() => props.buildId)
const { query, unsent, send, drop, trial, countBack, strike, expect } = useStation(
  () => props.buildId,
  () => props.valveId,
)
const station = query.data
const rod = computed(() => build.value?.instrument ?? null)
const counts = computed(() => rod.value?.kind === 'checking_rod')
const most = computed(() => rod.value?.most_turns ?? 0)

// Where the real rod stands: it stays as it is from one valve to the next.
const settings = useStorage<Record<string, number>>('vivid-arm.rod-turns', {})
const turns = computed(() => {
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

const caliper = ref('')
const caliperInches = ref<number | null>(null)
const gap = ref('')
const problem = ref<Problem | null>(null)
const focusCloser = ref(false)
const striking = ref<LogLine | null>(null)
const counting = ref(false)
const counted = ref('')
const explaining = ref(false)
const gapBox = useTemplateRef<{ focus(): void; blur(): void }>('gapBox')
const caliperBox = useTemplateRef<{ focus(): void; blur(): void }>('caliperBox')
const countBox = useTemplateRef<{ focus(): void }>('countBox')

watch(
  () => props.valveId,
  () => {
    caliper.value = gap.value = counted.value = ''
    caliperInches.value = problem.value = expectProblem.value = expectText.value = null
    turnsText.value = ''
    counting.value = false
  },
)

const rodInches = computed(() => {
  if (!rod.value) return null
  if (!counts.value) return caliperInches.value
  return (rod.value.closed_in ?? 0) + turns.value * (rod.value.pitch_in ?? 0)
})

async function feel(felt: Feel) {
  if (counts.value ? !rod.value : !caliper.value.trim()) {
    problem.value = {
      type: 'about:blank',
      title: 'No length',
      status: 0,
      code: 'empty',
      field: 'rod_length',
      detail: rod.value
        ? 'Rod length is empty. Type what the caliper reads first.'
        : 'Choose an instrument in the set-up first.',
      context: {},
    }
    caliperBox.value?.focus()
    return
  }
  const sending = trial(
    {
      setting: counts.value ? turnsWords(turns.value) : caliper.value,
      feel: felt,
      gap: felt === 'loose' ? gap.value : '',
      unit: unit.value,
      by: by.value,
      reason: '',
    },
    rodInches.value,
  )
  underway = sending
  const refused = await sending
  problem.value = refused
  if (refused && refused.status >= 400 && refused.status < 500) return
  gap.value = caliper.value = ''
  caliperInches.value = null
  if (!counts.value) caliperBox.value?.focus()
}

async function takeCaliper() {
  try {
    const body = { text: caliper.value, field: 'rod_length' as const, unit: unit.value }
    caliperInches.value = (await answer(api.POST('/api/compute/length', { body }))).inches
    problem.value = null
    if (build.value?.gaps) gapBox.value?.focus()
    else caliperBox.value?.blur()
  } catch (error) {
    problem.value = problemOf(error)
  }
}

const turnsText = ref('')
const turnsBox = useTemplateRef<{ focus(): void; blur(): void }>('turnsBox')
async function takeTurns() {
  try {
    const body = { text: turnsText.value }
    setTurns((await answer(api.POST('/api/compute/turns', { body }))).turns)
    turnsText.value = ''
    problem.value = null
    if (build.value?.gaps) gapBox.value?.focus()
    else turnsBox.value?.blur()
  } catch (error) {
    problem.value = problemOf(error)
  }
}

function typeSetting() {
  if (counts.value) turnsBox.value?.focus()
  else caliperBox.value?.focus()
}

function gapEntered() {
  if (gap.value.trim()) void feel('loose')
}

function useSuggestion(text: string) {
  if (problem.value?.field === 'gap') {
    gap.value = text
    void feel('loose')
  } else if (counts.value) {
    turnsText.value = text
    void takeTurns()
  } else {
    caliper.value = text
    void takeCaliper()
  }
}

// A quick hand presses N before the trial is answered: wait for what it says.
let underway: Promise<unknown> = Promise.resolve()
async function setNext() {
  await underway
  const step = station.value?.next_trial
  if (step?.turns != null) setTurns(step.turns)
}

async function strikeOut(reason: string) {
  if (striking.value) problem.value = await strike(striking.value.id, reason, by.value)
  striking.value = null
}

function strikeLast() {
  striking.value =
    station.value?.log.findLast((line) => line.kind !== 'void' && !line.struck) ?? null
}

async function startCounting() {
  if (!counts.value) return
  counting.value = true
  await nextTick()
  countBox.value?.focus()
}

async function takeCount() {
  problem.value = await countBack(counted.value, by.value)
  if (!problem.value) {
    counting.value = false
    counted.value = ''
  }
}

const expectText = ref<string | null>(null)
const expectProblem = ref<Problem | null>(null)
async function takeExpected() {
  if (expectText.value === null || !station.value) return
  const refused = await expect(station.value.valve.version, expectText.value, unit.value)
  expectProblem.value = refused
  if (!refused) expectText.value = null
}
const expectShown = computed(() => {
  if (expectText.value !== null) return expectText.value
  const known = station.value?.valve.expected_in
  return known == null ? '' : length(known, unit.value)
})

const valves = computed(() => build.value?.valves ?? [])
function goTo(step: number) {
  const at = valves.value.findIndex((v) => v.id === props.valveId)
  const to = valves.value[(at + step + valves.value.length) % valves.value.length]
  if (to)
    void router.replace({ name: 'zero-lash', params: { buildId: props.buildId, valveId: to.id } })
}

useKeys([
  {
    key: 'arrowright',
    shown: '→',
    does: 'Quarter turn longer',
    run: () => setTurns(turns.value + 0.25),
  },
  {
    key: 'arrowleft',
    shown: '←',
    does: 'Quarter turn shorter',
    run: () => setTurns(turns.value - 0.25),
  },
  {
    key: 'shift+arrowright',
    shown: 'Shift →',
    does: 'Eighth turn longer',
    run: () => setTurns(turns.value + 0.125),
  },
  {
    key: 'shift+arrowleft',
    shown: 'Shift ←',
    does: 'Eighth turn shorter',
    run: () => setTurns(turns.value - 0.125),
  },
  { key: 'arrowup', shown: '↑', does: 'Full turn longer', run: () => setTurns(turns.value + 1) },
  { key: 'arrowdown', shown: '↓', does: 'Full turn shorter', run: () => setTurns(turns.value - 1) },
  { key: 'n', does: 'Set the rod to the next trial', run: () => void setNext() },
  { key: 'l', does: 'Loose', run: () => void feel('loose') },
  { key: 'z', does: 'Zero lash', run: () => void feel('zero') },
  { key: 't', does: 'Tight', run: () => void feel('tight') },
  { key: 'g', does: 'Type the gap at the tip', run: () => gapBox.value?.focus() },
  { key: 'r', does: 'Type the turns, or what the caliper reads', run: typeSetting },
  { key: 'c', does: 'Count back to closed', run: () => void startCounting() },
  { key: 'x', does: 'Strike out the last reading', run: strikeLast },
  { key: 'v', does: 'Next valve', run: () => goTo(1) },
  { key: 'b', does: 'Valve before', run: () => goTo(-1) },
  {
    key: 'f',
    does: 'Closer or the whole ladder',
    run: () => (focusCloser.value = !focusCloser.value),
  },
  {
    key: 'e',
    does: 'How zero lash comes about',
    run: () => (explaining.value = !explaining.value),
  },
])

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
    u.inches === null
      ? []
      : [
          {
            number: shown.length + i + 1,
            length: u.inches,
            feel: u.body.feel,
            gap: null,
            conflict: false,
            pending: true,
          },
        ],
  )
  return [...shown, ...pending]
})
const notches = computed(() =>
  (station.value?.candidates ?? []).map((c) => ({
    axis: c.axis_in,
    label: c.length_in,
    inside: c.inside,
    best: c.best,
  })),
)
const best = computed(() => station.value?.candidates.find((c) => c.best) ?? null)
const nextWords = computed(() => {
  const step = station.value?.next_trial
  if (!step) return null
  const at = length(step.length_in, unit.value)
  return step.turns_words === null ? at : `${step.turns_words} turns · ${at}`
})
const atNext = computed(() => station.value?.next_trial?.turns === turns.value)
</script>

<template>
  <div v-if="build && station" class="station">
    <nav class="valves" aria-label="Valves">
      <RouterLink
        v-for="valve in valves"
        :key="valve.id"
        :to="{ name: 'zero-lash', params: { buildId, valveId: valve.id } }"
        replace
        :aria-current="valve.id === valveId ? 'true' : undefined"
        :aria-label="`Cylinder ${valve.cylinder} ${valve.kind}`"
      >
        <ValveToken :valve="valve" :current="valve.id === valveId" />
      </RouterLink>
      <span class="axis-words">
        Cylinder {{ station.valve.cylinder }} {{ station.valve.kind }}
      </span>
      <button
        type="button"
        class="plain"
        :aria-pressed="focusCloser"
        @click="focusCloser = !focusCloser"
      >
        {{ focusCloser ? 'Whole ladder' : 'Closer' }}
      </button>
    </nav>

    <LengthLadder
      v-bind="ladderOf(build)"
      :unit="unit"
      :trials="ladderTrials"
      :rod="rodInches"
      :next="station.next_trial?.length_in ?? null"
      :expected="station.valve.trials ? null : station.valve.expected_in"
      :loose="station.longest_loose_in"
      :tight="station.shortest_tight_in"
      :zero="station.valve.estimate_in"
      :spread="station.valve.u_in === null ? null : 2 * station.valve.u_in"
      :ratio="station.ratio"
      :notches="notches"
      :closer="focusCloser"
    />

    <div class="bench">
      <section class="set" aria-label="Set the rod">
        <template v-if="counts">
          <div class="turning">
            <TurnDial :turns="turns" :most="most" @turn="setTurns" />
            <div class="steps">
              <output class="reads">{{ length(rodInches ?? 0, unit) }}</output>
              <div class="buttons">
                <button
                  v-for="s in [1, 0.25, 0.125]"
                  :key="s"
                  type="button"
                  class="plain"
                  :aria-label="`${turnsWords(s)} turn longer`"
                  @click="setTurns(turns + s)"
                >
                  +{{ turnsWords(s) }}
                </button>
                <button
                  v-for="s in [1, 0.25, 0.125]"
                  :key="-s"
                  type="button"
                  class="plain"
                  :aria-label="`${turnsWords(s)} turn shorter`"
                  @click="setTurns(turns - s)"
                >
                  −{{ turnsWords(s) }}
                </button>
              </div>
              <span class="quiet">{{ rod?.name }}</span>
            </div>
          </div>
        </template>
        <p v-else-if="rod" class="quiet">
          {{ rod.name }}: its figures are {{ CONVENTIONS[rod.convention] }}.
        </p>
        <p v-else>
          No instrument yet:
          <RouterLink :to="{ name: 'setup', params: { buildId } }"
            >choose one in the set-up</RouterLink
          >.
        </p>

        <div class="entries" data-bench>
          <div v-if="counts">
            <label for="turns">Turns from closed</label>
            <el-input
              id="turns"
              ref="turnsBox"
              v-model="turnsText"
              size="large"
              autocomplete="off"
              placeholder="type, or turn"
              @keydown.enter="takeTurns"
            />
          </div>
          <div v-else-if="rod">
            <label for="caliper">Caliper reads</label>
            <el-input
              id="caliper"
              ref="caliperBox"
              v-model="caliper"
              size="large"
              autocomplete="off"
              @keydown.enter="takeCaliper"
            >
              <template #suffix>{{ unit }}</template>
            </el-input>
          </div>
          <div v-if="build.gaps">
            <label for="gap">Gap at the tip, when loose</label>
            <el-input
              id="gap"
              ref="gapBox"
              v-model="gap"
              size="large"
              autocomplete="off"
              placeholder="Enter = loose"
              @keydown.enter="gapEntered"
            >
              <template #suffix>{{ unit }}</template>
            </el-input>
          </div>
        </div>
        <div class="feels">
          <button type="button" class="feel" @click="feel('loose')">
            <FeelGlyph feel="loose" />Loose<kbd>L</kbd>
          </button>
          <button type="button" class="feel" @click="feel('zero')">
            <FeelGlyph feel="zero" />Zero<kbd>Z</kbd>
          </button>
          <button type="button" class="feel" @click="feel('tight')">
            <FeelGlyph feel="tight" />Tight<kbd>T</kbd>
          </button>
        </div>
        <ProblemNote :problem="problem" @use="useSuggestion" />
      </section>

      <section class="say" aria-label="What the trials say">
        <VerdictNote :verdict="station.verdict" />
        <button
          v-if="nextWords && counts"
          type="button"
          class="next"
          :disabled="atNext"
          @click="setNext"
        >
          <span>{{ atNext ? 'Rod is at the next trial' : 'Set the rod to' }}</span>
          <b>{{ nextWords }}</b>
          <kbd>N</kbd>
        </button>
        <p v-else-if="nextWords" class="next still">
          <span>Next</span><b>{{ nextWords }}</b>
        </p>

        <div v-if="station.valve.estimate_in !== null" class="figures">
          <FigureButton
            v-model:open="explaining"
            big
            label="Zero lash"
            :value="length(station.valve.estimate_in, unit)"
            :explanation="station.explanations.zero_lash"
          />
          <FigureButton
            label="± (k = 2)"
            :value="small(2 * (station.valve.u_in ?? 0), unit)"
            :explanation="station.explanations.uncertainty"
          />
          <FigureButton
            v-if="station.exact_in !== null"
            label="Exact rod"
            :value="length(station.exact_in, unit)"
            :explanation="station.explanations.exact"
          />
          <template v-if="best">
            <FigureButton
              :label="`Stock, ${CONVENTIONS[build.order_convention]}`"
              :value="length(best.length_in, unit)"
              :explanation="station.explanations.order ?? station.explanations.fit"
            />
            <FigureButton
              label="Preload"
              :value="small(best.preload_low_in, unit)"
              :explanation="station.explanations.fit"
            />
            <FigureButton
              label="Off bottom"
              :value="small(best.off_bottom_in, unit)"
              :explanation="station.explanations.fit"
            />
          </template>
        </div>
        <p v-if="station.candidates.length && !best" class="none">
          No stock length at this step fits the window: see Order.
        </p>
        <div v-if="station.valve.estimate_in === null" class="expect">
          <label for="expected">Expected length (old rod, or from the shop's notes)</label>
          <el-input
            id="expected"
            :model-value="expectShown"
            autocomplete="off"
            @update:model-value="expectText = $event"
            @keydown.enter="takeExpected"
            @blur="takeExpected"
          />
          <ProblemNote :problem="expectProblem" @use="((expectText = $event), takeExpected())" />
        </div>
      </section>

      <section class="logbook" aria-label="Log">
        <div class="log-top">
          <h3>Log</h3>
          <div v-if="counts" class="count">
            <button v-if="!counting" type="button" class="plain" @click="startCounting">
              Count back to closed <kbd>C</kbd>
            </button>
            <form v-else @submit.prevent="takeCount">
              <label for="counted">Turns back to closed</label>
              <el-input
                id="counted"
                ref="countBox"
                v-model="counted"
                autocomplete="off"
                placeholder="10 1/4"
                @keydown.esc="counting = false"
              />
              <button type="submit" class="plain">Check</button>
            </form>
          </div>
        </div>
        <TrialLog
          :log="station.log"
          :unsent="unsent"
          @strike="striking = $event"
          @retry="send($event)"
          @drop="drop"
        />
      </section>
    </div>
    <ul class="cautions" aria-label="Cautions">
      <li v-for="c in station.cautions" :key="c">{{ c }}</li>
    </ul>
    <StrikeDialog :line="striking" @strike="strikeOut" @close="striking = null" />
  </div>
  <p v-else-if="query.error.value" class="away" role="alert">
    {{ problemOf(query.error.value).detail }}
  </p>
  <p v-else class="away">Reading the log…</p>
</template>

<style scoped>
.station {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.valves {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.valves a {
  padding: 1px;
  text-decoration: none;
}
.axis-words {
  margin-left: auto;
  color: var(--quiet);
}
.bench {
  display: grid;
  grid-template-columns: 384px minmax(320px, 1fr) minmax(290px, 340px);
  gap: 24px;
  align-items: start;
}
.figures {
  align-items: end;
}
.set,
.say {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.turning {
  display: flex;
  gap: 14px;
  align-items: center;
}
.steps {
  display: flex;
  flex-direction: column;
  gap: 6px;
  flex: 1;
}
.reads {
  font-size: 34px;
  font-weight: 600;
  line-height: 1;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.buttons {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.quiet,
label {
  margin: 0;
  color: var(--quiet);
  font-size: 14px;
}
.entries {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.entries :deep(input) {
  font-size: 21px;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.entries :deep(input::placeholder) {
  font-size: 15px;
  font-weight: 400;
}
.feels {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.feel {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 8px;
  min-height: 54px;
  font: inherit;
  font-size: 19px;
  font-weight: 600;
  color: var(--ink);
  background: var(--tag);
  border: 1.5px solid var(--ink);
  cursor: pointer;
}
.feel:active {
  background: var(--accent);
  color: #fff;
}
.next {
  display: flex;
  align-items: baseline;
  gap: 10px;
  min-height: 52px;
  margin: 0;
  padding: 0 14px;
  font: inherit;
  color: var(--on-accent);
  background: var(--accent);
  border: 0;
  cursor: pointer;
  align-items: center;
}
.next b {
  font-size: 21px;
  font-variant-numeric: tabular-nums;
}
.next kbd {
  margin-left: auto;
  border-color: currentColor;
  color: inherit;
}
.next:disabled,
.still {
  background: none;
  color: var(--ink);
  border: 1.5px solid var(--accent);
  cursor: default;
}
.figures {
  display: grid;
  grid-template-columns: repeat(3, auto);
  justify-content: space-between;
  gap: 10px 18px;
}
.count form {
  display: flex;
  align-items: center;
  gap: 8px;
}
.count .el-input {
  width: 110px;
}
.cautions {
  margin: 6px 0 0;
  padding: 8px 0 0;
  list-style: none;
  border-top: 1px solid var(--rule);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 26px;
  font-size: 14px;
  color: var(--quiet);
}
.cautions li::before {
  content: '⚠ ';
  color: var(--alarm-ink);
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
@media (max-width: 1100px) {
  .axis-words {
    display: none;
  }
  .valves > .plain {
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
@media (max-width: 720px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
  .valves {
    flex-wrap: nowrap;
    overflow-x: auto;
    padding-top: 6px;
  }
  .valves .plain {
    position: sticky;
    right: 0;
  }
}
</style>
