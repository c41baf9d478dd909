<script setup lang="ts">
/**
 * The one thing to do now, in letters that are read from two metres; hands stay at the engine.
 * A foot switch or presenter goes through what can be done (Page Down, Page Up) and does it
 * (Enter).
 */
import { t } from '../../kit/words'
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import type { Change, Feel, Here, Problem, Station } from '../../api/client'
import { fill, FEELS, length, small, turnsWords } from '../../kit/format'
import { takeOut } from '../../kit/entries'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { mended, refusedBy } from '../../kit/refused'
import { called } from '../../kit/whereabouts'
import { useBenchMode } from './useBenchMode'

const props = defineProps<{
  station: Station
  turns: number
  /** Where the plan goes from here: "turn on 84°, then 1E". */
  upNext: string
  /** Whether the rod's turns are counted; else its length is typed with each feel. */
  counts: boolean
  /** Keep a feel with a gap and a length as typed; the problem when it was refused. */
  feel: (feel: Feel, gap: string, reads: string, change: Change) => Promise<Problem | null>
  /** Devices of others, and the followed one while it is in use. */
  others: Here[]
  followed: Here | null
}>()
/** The device that is followed, by its id; empty for none. */
const follows = defineModel<string>('follows', { default: '' })
const emit = defineEmits<{ setNext: []; go: [step: number]; close: [] }>()
const { unit } = usePrefs()

const said = (text: string) => {
  const { lengths, smalls } = props.station.verdict
  return fill(text, lengths, smalls, unit.value)
}
const next = computed(() => props.station.next_trial)
const atNext = computed(() => next.value?.turns == null || next.value.turns === props.turns)
/** The one thing to do now, and what it is about. */
const now = computed(() => {
  const step = next.value
  if (step && !atNext.value)
    return { what: t('Set the rod to'), figure: step.turns_words ?? '', unit: 'turns' }
  if (step && step.turns == null)
    return { what: t('Set the rod to'), figure: length(step.length_in, unit.value), unit: '' }
  if (step) return { what: t('Feel it'), figure: '', unit: '' }
  return { what: said(props.station.verdict.what), figure: '', unit: '' }
})
const name = computed(() => {
  const { cylinder, kind } = props.station.valve
  return t('Cylinder {cylinder} {kind}', { cylinder, kind: t(kind) })
})
const settled = computed(() => props.station.verdict.state === 'settled')
const last = computed(() => {
  const line = props.station.log.findLast((l) => l.number !== null && !l.struck)
  if (!line) return t('No reading yet')
  const felt = line.feel ? FEELS[line.feel] : (line.method ?? '')
  const at =
    line.length_in === null
      ? ''
      : ` ${t('at {length}', { length: length(line.length_in, unit.value) })}`
  const gap = line.gap_in === null ? '' : t(', gap {gap}', { gap: small(line.gap_in, unit.value) })
  return `${line.number}: ${felt}${at}${gap}`
})

const problem = ref<Problem | null>(null)
const gap = ref('')
const reads = ref('')
let lastFelt: Feel = 'loose'
async function keep(felt: Feel, change: Change = {}) {
  lastFelt = felt
  const [gapText, readsText] = [felt === 'loose' ? gap.value : '', reads.value]
  const putBack = takeOut(gap, reads)
  problem.value = await props.feel(felt, gapText, readsText, change)
  if (problem.value) putBack()
}
function mend(text: string) {
  for (const field of [gap, reads]) field.value = mended(field.value, problem.value, text)
  void keep(lastFelt)
}

// What was typed belongs to the valve it was typed for.
watch(
  () => props.station.valve.id,
  () => {
    gap.value = reads.value = ''
    problem.value = null
  },
)

/** What can be done, in the order a foot goes through it; the likeliest stands first. */
const deeds = computed(() => {
  const set = {
    words: t('It is set'),
    key: 'set',
    run: () => emit('setNext'),
    shown: next.value?.turns != null && !atNext.value && !props.followed,
  }
  const feels = (['loose', 'zero', 'tight'] as const).map((felt) => ({
    words: FEELS[felt],
    key: felt,
    run: () => void keep(felt),
    shown: true,
  }))
  const on = {
    words: t('Next: {upNext}', { upNext: props.upNext }),
    key: 'next',
    run: () => emit('go', 1),
    shown: !props.followed,
  }
  const all = settled.value ? [on, set, ...feels] : [set, ...feels, on]
  return all.filter((d) => d.shown)
})
const at = ref(0)
watch(
  () => [props.station.valve.id, props.station.log.length, atNext.value],
  () => (at.value = 0),
)
function step(by: number) {
  at.value = (at.value + by + deeds.value.length) % deeds.value.length
}
useEventListener('keydown', (event) => {
  const keys: Record<string, () => void> = {
    PageDown: () => step(1),
    PageUp: () => step(-1),
    Escape: () => emit('close'),
  }
  const run = keys[event.key] ?? (event.key === 'Enter' && outside(event) ? doIt : undefined)
  if (!run) return
  event.preventDefault()
  run()
})
/** Enter in a field or on a button is theirs. */
const outside = (event: KeyboardEvent) =>
  !(event.target instanceof Element && event.target.closest('button, input, select'))
function doIt() {
  deeds.value[at.value]?.run()
}

const { speaks, beeps, canSpeak } = useBenchMode(
  computed(() => `${name.value}. ${now.value.what} ${now.value.figure} ${now.value.unit}`.trim()),
  computed(() => props.station.log.length),
  computed(() => problem.value?.detail ?? ''),
)

const frame = useTemplateRef<HTMLElement>('frame')
onMounted(() => {
  frame.value?.focus()
  void frame.value?.requestFullscreen?.().catch(() => undefined)
})
function close() {
  if (document.fullscreenElement) void document.exitFullscreen()
  emit('close')
}
</script>

<template>
  <section ref="frame" class="mode" tabindex="-1" role="dialog" :aria-label="t('Bench mode')">
    <header>
      <strong>{{ name }}</strong>
      <span class="last" role="status">{{ last }}</span>
      <span v-if="followed && counts">{{
        t('Rod at {turns} turns', { turns: turnsWords(turns) })
      }}</span>
      <label v-if="others.length || follows" class="follow">
        <span>{{ t('Follows') }}</span>
        <select v-model="follows" :aria-label="t('Follows')">
          <option value="">{{ t('nobody') }}</option>
          <option v-for="seen in others" :key="seen.id" :value="seen.id">{{ called(seen) }}</option>
          <option v-if="follows && !followed" :value="follows">
            {{ t('a device not in use') }}
          </option>
        </select>
      </label>
      <button type="button" class="plain" :aria-pressed="beeps" @click="beeps = !beeps">
        {{ t('Beep') }}
      </button>
      <button
        v-if="canSpeak"
        type="button"
        class="plain"
        :aria-pressed="speaks"
        @click="speaks = !speaks"
      >
        {{ t('Speak') }}
      </button>
      <button type="button" class="plain" @click="close">{{ t('Close') }}</button>
    </header>
    <div class="now" :class="{ settled }" aria-live="polite">
      <p>{{ now.what }}</p>
      <p v-if="now.figure" class="figure">
        {{ now.figure }} <small>{{ now.unit }}</small>
      </p>
      <p v-else-if="station.verdict.then" class="then">{{ said(station.verdict.then) }}</p>
    </div>
    <ProblemNote
      id="bench-why"
      class="problem"
      :problem="problem"
      @use="mend"
      @choose="keep(lastFelt, $event)"
    />
    <div class="deeds">
      <button
        v-for="(deed, i) in deeds"
        :key="deed.key"
        type="button"
        :class="[deed.key, { at: i === at }]"
        :aria-current="i === at ? 'step' : undefined"
        @click="deed.run()"
      >
        {{ deed.words }}
      </button>
      <label v-if="!counts" data-bench>
        <span>{{ t('Caliper reads') }}</span>
        <el-input
          v-model="reads"
          v-bind="refusedBy('bench', problem, reads)"
          :aria-label="t('Caliper reads')"
          autocomplete="off"
        />
      </label>
      <label data-bench>
        <span>{{ t('Gap') }}</span>
        <el-input
          v-model="gap"
          v-bind="refusedBy('bench', problem, gap)"
          :aria-label="t('Gap at the tip')"
          autocomplete="off"
          @keydown.enter.stop="gap.trim() && keep('loose')"
        />
      </label>
    </div>
  </section>
</template>

<style scoped>
.mode {
  position: fixed;
  z-index: 15;
  inset: 0;
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 12px 20px 20px;
  background: var(--page);
  overflow: auto;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 16px;
  font-size: 24px;
}
.last {
  flex: 1;
  color: var(--quiet);
  font-variant-numeric: tabular-nums;
}
header .plain[aria-pressed='true'] {
  color: var(--on-accent);
  background: var(--accent);
}
.follow {
  flex-direction: row;
  align-items: center;
  gap: 8px;
}
.now {
  flex: 1;
  display: flex;
  flex-direction: column;
  justify-content: center;
  padding: 0 20px;
  border-left: 14px solid var(--accent);
  font-size: clamp(34px, 6vw, 84px);
  font-weight: 600;
  line-height: 1.05;
}
.now.settled {
  border-left-color: var(--good);
}
.now p {
  margin: 0;
}
.figure {
  font-size: clamp(80px, 17vw, 230px);
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
small {
  font-size: 0.35em;
  font-weight: 400;
}
.then {
  font-size: 0.6em;
  font-weight: 400;
}
.problem {
  margin: 0;
  padding: 8px 12px;
  font-size: 24px;
  color: var(--alarm-ink);
  background: var(--alarm-paper);
}
.deeds {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px;
}
.deeds button {
  min-height: 96px;
  font: inherit;
  font-size: 28px;
  font-weight: 600;
  text-transform: capitalize;
  color: var(--ink);
  background: var(--tag);
  border: 2px solid var(--ink);
}
.deeds .next,
.deeds .set {
  text-transform: none;
}
.deeds .next {
  font-size: 20px;
}
.deeds .at {
  outline: 8px solid var(--accent);
  outline-offset: -8px;
}
label {
  display: flex;
  flex-direction: column;
  justify-content: center;
  font-size: 18px;
  color: var(--quiet);
}
label :deep(.el-input) {
  height: 60px;
}
label :deep(input) {
  font-size: 30px;
}
@media (max-width: 720px) {
  .deeds {
    grid-template-columns: 1fr 1fr;
  }
  .deeds button {
    min-height: 72px;
    font-size: 22px;
  }
}
</style>
