<script setup lang="ts">
/** What the trials say: the verdict, the next setting, and the figures that follow. */
import { t } from '../../kit/words'
import { computed, ref } from 'vue'
import type { Build, Problem, Station } from '../../api/client'
import FigureButton from '../../kit/FigureButton.vue'
import { CONVENTIONS, length, small } from '../../kit/format'
import NumberEntry from '../../kit/NumberEntry.vue'
import { usePrefs } from '../../kit/prefs'
import SuspicionNote from '../../kit/SuspicionNote.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import VerdictNote from '../../kit/VerdictNote.vue'
import TermLink from '../../kit/TermLink.vue'
import LifterAsked from '../heads/LifterAsked.vue'

const props = defineProps<{
  build: Build
  station: Station
  turns: number
  /** Keep the length this valve is thought to need; the problem when it was refused. */
  expect: (version: number, text: string, unit: 'in' | 'mm') => Promise<Problem | null>
  /** Keep how much taller its tip stands than the others'. */
  stem: (version: number, inches: number | null) => Promise<Problem | null>
}>()
const emit = defineEmits<{ setNext: []; recount: [way: Station['recounts'][number]] }>()
const explaining = defineModel<boolean>('explaining', { required: true })
const { unit } = usePrefs()

const best = computed(() => props.station.candidates.find((c) => c.best) ?? null)
const stockWord = computed(() =>
  props.station.verdict.state === 'settled' ? t('Stock') : t('Stock so far'),
)
const counts = computed(() => props.build.instrument?.kind === 'checking_rod')
const nextWords = computed(() => {
  const step = props.station.next_trial
  if (!step) return null
  const at = length(step.length_in, unit.value)
  return step.turns_words === null
    ? at
    : t('{turns_words} turns · {at}', { turns_words: step.turns_words, at })
})
const atNext = computed(() => props.station.next_trial?.turns === props.turns)

const expectText = ref<string | null>(null)
const expectProblem = ref<Problem | null>(null)
/** Leaving the field after Enter is not a second entry. */
let sentText: string | null = null
async function takeExpected() {
  const text = expectText.value
  if (text === null || text === sentText) return
  sentText = text
  const { version } = props.station.valve
  expectProblem.value = await props.expect(version, text, unit.value)
  if (!expectProblem.value && expectText.value === text) expectText.value = null
  sentText = null
}
const stemProblem = ref<Problem | null>(null)
async function keepStem(inches: number | null) {
  stemProblem.value = await props.stem(props.station.valve.version, inches)
}
const expectShown = computed(() => {
  const known = props.station.valve.expected_in
  return expectText.value ?? (known === null ? '' : length(known, unit.value))
})
</script>

<template>
  <section class="say" :aria-label="t('What the trials say')">
    <VerdictNote :verdict="station.verdict" />
    <div
      v-if="station.recounts.length"
      class="recounts"
      role="group"
      :aria-label="t('Work out again')"
    >
      <button
        v-for="way in station.recounts"
        :key="way.since"
        type="button"
        class="plain"
        @click="emit('recount', way)"
      >
        {{ way.words }}
      </button>
    </div>
    <SuspicionNote v-if="station.suspicion" :suspicion="station.suspicion">
      <LifterAsked :build="build" />
    </SuspicionNote>
    <button
      v-if="nextWords && counts"
      type="button"
      class="next"
      :disabled="atNext"
      @click="emit('setNext')"
    >
      <span>{{ atNext ? t('Rod is at the next trial') : t('Set the rod to') }}</span>
      <b>{{ nextWords }}</b>
      <kbd>N</kbd>
    </button>
    <p v-else-if="nextWords" class="next still">
      <span>{{ t('Next') }}</span><b>{{ nextWords }}</b>
    </p>

    <div v-if="station.valve.estimate_in !== null" class="figures">
      <FigureButton
        v-model:open="explaining"
        big
        :label="t('Zero lash')"
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
        :label="t('Exact rod')"
        :value="length(station.exact_in, unit)"
        :explanation="station.explanations.exact"
      />
      <template v-if="best">
        <FigureButton
          :label="`${stockWord}, ${CONVENTIONS[build.order_convention]}`"
          :value="length(best.length_in, unit)"
          :explanation="station.explanations.order ?? station.explanations.fit"
        />
        <FigureButton
          :label="t('Preload')"
          :value="small(best.preload_low_in, unit)"
          :explanation="station.explanations.fit"
        />
        <FigureButton
          :label="t('Off bottom')"
          :value="small(best.off_bottom_in, unit)"
          :explanation="station.explanations.fit"
        />
      </template>
    </div>
    <p v-if="station.valve.estimate_in !== null" class="words">
      <TermLink term="zero lash">{{ t('Zero lash') }}</TermLink> ·
      <TermLink term="k = 2">± (k = 2)</TermLink> ·
      <TermLink term="preload">{{ t('Preload') }}</TermLink> ·
      <TermLink term="r0">R0</TermLink>
    </p>
    <p v-if="station.geometry" class="by-mark">{{ station.geometry }}</p>
    <p v-if="station.candidates.length && !best" class="none">
      {{ t('No stock length at this step fits the window: see Order.') }}
    </p>
    <NumberEntry
      v-if="
        station.verdict.state === 'settled' || station.suspicion || station.valve.stem_in !== null
      "
      :label="t(`Its stem's tip, known to be taller than the others' by (lower: −)`)"
      field="change"
      optional
      :model-value="station.valve.stem_in"
      :refusal="stemProblem"
      @update:model-value="keepStem"
    />
    <div v-if="station.valve.estimate_in === null" class="expect" data-pad>
      <FigureButton
        v-if="station.explanations.predicted"
        :label="t('Predicted from what changed')"
        :value="`${length(station.valve.predicted_in ?? 0, unit)} ± ${small(2 * (station.valve.predicted_u_in ?? 0), unit)}`"
        :explanation="station.explanations.predicted"
      />
      <label for="expected">{{ t("Expected length (old rod, or from the shop's notes)") }}</label>
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
    <slot />
  </section>
</template>

<style scoped>
.say {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
label {
  color: var(--quiet);
  font-size: 14px;
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
.recounts {
  display: flex;
  flex-direction: column;
  align-items: start;
  gap: 6px;
}
.words {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
.figures {
  align-items: end;
}
.figures {
  display: grid;
  grid-template-columns: repeat(3, auto);
  justify-content: space-between;
  gap: 10px 18px;
}
</style>
