<script setup lang="ts">
/** Measure by another way than the bracket: its instrument, its reading, the known rod. */
import { decimal, t } from '../../kit/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import {
  answer,
  api,
  type Build,
  type Change,
  type Convention,
  type MeasureIn,
  type MethodRule,
  type Problem,
} from '../../api/client'
import MethodGauge from '../../drawings/MethodGauge.vue'
import TurnDial from '../../drawings/TurnDial.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { CONVENTIONS, small, turnsWords } from '../../kit/format'
import { wantGauge } from '../../kit/gauge'
import { isRead, takeOut } from '../../kit/entries'
import { useTelling } from '../../kit/leftBehind'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { refusedBy } from '../../kit/refused'
import { useInstruments, useRules } from '../builds'

const props = defineProps<{
  build: Build
  /** The ways of measuring under this tab. */
  methods: MethodRule[]
  ratio: number
  keep: (body: Omit<MeasureIn, 'key' | 'by'>) => Promise<Problem | null>
}>()
const { unit } = usePrefs()
const { data: instruments } = useInstruments()
const { data: rules } = useRules()

const picking = ref(props.methods[0]?.code ?? 'extend')
const rule = computed(() => props.methods.find((m) => m.code === picking.value) ?? props.methods[0])
const method = computed(() => picking.value)
const choices = computed(() => props.methods.map((m) => ({ value: m.code, words: m.words })))

const reading = ref('')
const rod = ref('')
const convention = ref<Convention>(props.build.order_convention)
const turns = ref(0)
const problem = ref<Problem | null>(null)
const readingBox = useTemplateRef<{ focus(): void }>('readingBox')
const rodBox = useTemplateRef<{ focus(): void }>('rodBox')

const wantsRod = computed(() => rule.value?.rod !== 'none')
const kind = computed(() => rule.value?.tool ?? 'caliper')
const tools = computed(() => (instruments.value ?? []).filter((i) => i.kind === kind.value))
const picked = ref<string | null>(null)
const tool = computed(() => {
  const known = tools.value.find((t) => t.id === picked.value)
  const own = tools.value.find((t) => t.id === props.build.instrument?.id)
  return known ?? own ?? (rule.value?.reads === 'lengths' ? tools.value[0] : undefined) ?? null
})
const toolOptions = computed(() => [
  ...tools.value.map((t) => ({ value: t.id, words: t.name })),
  ...(rule.value?.reads === 'lengths' ? [] : [{ value: '', words: t('not stated') }]),
])

function pick(event: Event) {
  picked.value = (event.target as HTMLSelectElement).value
}

/** Only for the drawing; the server reads what is typed. */
const roughly = computed(() => {
  const text = reading.value.trim().split(/[\s+;]/)[0] ?? ''
  const value = Number(text.replace(',', '.'))
  if (!text || Number.isNaN(value)) return null
  if (/mm/.test(reading.value) || (unit.value === 'mm' && !/thou|in/.test(reading.value)))
    return value / 25.4
  return /thou/.test(reading.value) || (value >= 1 && rule.value?.reads !== 'lengths')
    ? value / 1000
    : value
})

const pitchName = computed(
  () =>
    rules.value?.pitches.find((p) => Math.abs(p.pitch_in - props.build.fastener_pitch_in) < 2e-6)
      ?.name ?? small(props.build.fastener_pitch_in, unit.value),
)
const { data: preview } = useQuery({
  queryKey: computed(() => ['turns', turns.value, props.build.fastener_pitch_in, props.ratio]),
  enabled: computed(() => method.value === 'turns'),
  queryFn: () =>
    answer(
      api.POST('/api/compute/method', {
        body: {
          method: 'turns',
          turns: turns.value,
          pitch_in: props.build.fastener_pitch_in,
          ratio: props.ratio,
          readings_in: [],
          travel_in: props.build.travel_in,
          accuracy_in: 0,
          resolution_in: 0,
        },
      }),
    ),
  placeholderData: (before) => before,
})

async function takeTurns() {
  const body = { text: reading.value, bolts: true }
  const read = await answer(api.POST('/api/compute/turns', { body })).catch(() => null)
  if (read && reading.value === body.text) turns.value = read.turns
}

watch(reading, () => method.value === 'turns' && void takeTurns())

let sent = ''
const tell = useTelling(undefined, () => `${rule.value?.words ?? ''} ${sent}`)
async function record(change: Change = {}, told = tell()) {
  if (method.value === 'turns' && !reading.value.trim() && !turns.value) {
    const detail = t('Turns are empty. Turn the dial, or type them; 0 where there were none.')
    problem.value = {
      type: 'about:blank',
      title: t('No turns'),
      status: 0,
      code: 'empty',
      detail,
      context: {},
    }
    return
  }
  const text =
    method.value === 'turns' && !reading.value.trim() ? turnsWords(turns.value) : reading.value
  sent = text
  const dialled = turns.value
  const rodText = wantsRod.value ? rod.value : ''
  const putBack = takeOut(reading)
  turns.value = 0
  const refused = await props.keep({
    method: method.value,
    reading: text,
    rod: rodText,
    rod_convention: convention.value,
    instrument_id: picked.value === '' ? null : (tool.value?.id ?? null),
    instrument_version: picked.value === '' ? null : (tool.value?.version ?? null),
    sure: false,
    unit: unit.value,
    reason: '',
    ...change,
  })
  problem.value = refused && told(refused)
  if (!problem.value) return
  putBack()
  turns.value ||= dialled
}

async function readingEntered() {
  // The valve is left when the reading is on its way: it belongs to this one.
  const told = tell()
  if (method.value === 'turns') await isRead(takeTurns().then(() => goOn(told)))
  else goOn(told)
}
function goOn(told: ReturnType<typeof tell>) {
  if (wantsRod.value && !rod.value.trim()) rodBox.value?.focus()
  else void record({}, told)
  return true
}
function useSuggestion(text: string) {
  if (problem.value?.field === 'rod_length' || problem.value?.field === 'rod') rod.value = text
  else reading.value = text
  void record()
}
defineExpose({ focus: () => readingBox.value?.focus(), record })
wantGauge(() => method.value !== 'turns')
</script>

<template>
  <section class="way" :aria-label="t('Measure')">
    <div class="instrument">
      <TurnDial v-if="method === 'turns'" :turns="turns" :most="5" @turn="turns = $event" />
      <MethodGauge v-else :unit="unit" :method="method" :value="roughly" />
      <div class="beside">
        <p>{{ rule?.how }}</p>
        <ChoiceRow
          v-if="choices.length > 1 && build.lifter_kind === 'hydraulic'"
          v-model="picking"
          quiet
          :label="t('With')"
          :options="choices"
        />
        <p v-if="method === 'turns' && preview" class="rules">
          {{ t('lever') }} <b>{{ small(preview.preload_in ?? 0, unit) }}</b><br />{{
            t('plain rule')
          }}
          <b>{{ small(preview.plain_in ?? 0, unit) }}</b><br />
          <span>{{
            t('{pitchName}, ratio near closed {a}', { pitchName, a: decimal(ratio.toFixed(2)) })
          }}</span>
        </p>
      </div>
    </div>
    <div class="entries" data-bench>
      <div :data-turns="method === 'turns' || undefined">
        <label for="reading">{{ rule?.ask }}</label>
        <el-input
          id="reading"
          ref="readingBox"
          v-model="reading"
          v-bind="refusedBy('way', problem, reading)"
          data-main
          size="large"
          autocomplete="off"
          :placeholder="method === 'turns' ? turnsWords(turns) : ''"
          @keydown.enter="readingEntered"
        >
          <template v-if="method !== 'turns'" #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <div v-if="wantsRod">
        <label for="known-rod">{{
          t('Rod in place, {CONVENTIONS}', { CONVENTIONS: CONVENTIONS[convention] })
        }}</label>
        <el-input
          id="known-rod"
          ref="rodBox"
          v-model="rod"
          v-bind="refusedBy('way', problem, rod)"
          size="large"
          autocomplete="off"
          @keydown.enter="record()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
    </div>
    <div class="last">
      <label v-if="tools.length">
        {{ rule?.tool ? t('Read with') : t('Rod measured with') }}
        <select class="plain" :value="picked ?? tool?.id ?? ''" @change="pick">
          <option v-for="o in toolOptions" :key="o.value" :value="o.value">{{ o.words }}</option>
        </select>
      </label>
      <p v-else class="quiet">
        {{ t('No {kind} in the shop:', { kind: t(kind) }) }}
        <template v-if="rule?.reads === 'lengths'">{{ t('add one in the set-up.') }}</template>
        <template v-else>{{ t('its accuracy is not counted.') }}</template>
      </p>
      <button type="button" class="plain strong" @click="record()">
        {{ t('Record') }} <kbd>{{ t('Enter') }}</kbd>
      </button>
    </div>
    <ProblemNote id="way-why" :problem="problem" @choose="record" @use="useSuggestion" />
  </section>
</template>

<style scoped>
.way {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.instrument {
  display: flex;
  gap: 14px;
  align-items: flex-start;
}
.beside p {
  margin: 2px 0 4px;
  line-height: 1.25;
  color: var(--quiet);
}
.beside .rules {
  color: var(--ink);
  font-variant-numeric: tabular-nums;
}
.rules b {
  font-size: 19px;
}
.rules span {
  font-size: 14px;
  color: var(--quiet);
}
.entries {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: end;
}
.entries > :only-child {
  grid-column: 1 / -1;
}
label,
.quiet {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
.instrument :deep(svg) {
  width: 118px;
  height: auto;
}
.last {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: end;
}
.last select {
  display: block;
  width: 100%;
  font-weight: 400;
}
.strong kbd {
  color: inherit;
  border-color: currentColor;
}
</style>
