<script setup lang="ts">
/** Firing order, numbering and the valves' order along each head. */
import { t } from '../../kit/words'
import { computed, ref } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Build,
  type EngineFigures,
  type Problem,
} from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { isRead } from '../../kit/entries'
import FigureEntry from '../../kit/FigureEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import { useRules, type Wanted } from '../builds'
import type { Keeper } from '../useKeeper'

const props = defineProps<{ build: Build; keeper: Keeper }>()
const emit = defineEmits<{ engine: [wanted: Wanted] }>()
const { data: rules } = useRules()
const engine = computed(() => props.build.engine)
const problem = ref<Problem | null>(null)
const refusal = computed(() => problem.value ?? props.keeper.refusalOf('engine'))

function keep(change: (engine: EngineFigures) => Partial<EngineFigures>) {
  problem.value = null
  return props.keeper.keep({ engine: ({ engine }) => ({ ...engine, ...change(engine) }) })
}

const presets = computed(() => rules.value?.presets ?? [])
function takePreset(words: string) {
  const preset = presets.value.find((p) => p.words === words)
  if (preset)
    emit('engine', {
      layout: preset.layout,
      cylinders: preset.cylinders,
      engine: preset.engine,
    })
}

const keepOrder = (text: string) => isRead(readOrder(text))
async function readOrder(text: string): Promise<boolean> {
  try {
    const body = { text }
    const read = await answer(api.POST('/api/compute/firing-order', { body }))
    void keep(() => ({ firing_order: read.firing_order }))
    return true
  } catch (error) {
    problem.value = problemOf(error)
    return false
  }
}

const even = computed(() => new Set(engine.value.intervals_deg).size === 1)
const EVEN = [
  { value: 'even', words: t('Even') },
  { value: 'odd', words: t('Odd') },
] as const satisfies { value: string; words: string }[]
const odd = ref(false)
function keepFiring(value: 'even' | 'odd') {
  odd.value = value === 'odd'
  const n = props.build.cylinders
  if (value === 'even')
    void keep(() => ({ intervals_deg: Array.from({ length: n }, () => 720 / n) }))
}
function keepIntervals(text: string) {
  const parts = text.split(/[\s;,]+/).filter(Boolean)
  void keep(() => ({ intervals_deg: parts.map((p) => Number(p.replace('°', '')) || 0) }))
}
const heads = computed(() =>
  engine.value.valve_orders.length === 2 ? [t('left bank'), t('right bank')] : [t('head')],
)
function keepValves(head: number, text: string) {
  const letters = text.toUpperCase().replace(/[^A-Z]/g, '')
  void keep(({ valve_orders }) => ({
    valve_orders: valve_orders.map((order, i) => (i === head ? letters : order)),
  }))
}
const NUMBERING = [
  { value: 'along', words: t('Along the bank') },
  { value: 'across', words: t('Across the banks') },
] as const satisfies { value: EngineFigures['numbering']; words: string }[]
const SIDES = [
  { value: 'left', words: t('Left') },
  { value: 'right', words: t('Right') },
] as const satisfies { value: EngineFigures['first_bank']; words: string }[]
const ROTATIONS = [
  { value: 'clockwise', words: t('Clockwise') },
  { value: 'anticlockwise', words: t('Anticlockwise') },
] as const satisfies { value: EngineFigures['rotation']; words: string }[]
</script>

<template>
  <section id="firing">
    <h2>{{ t('Firing and valves') }}</h2>
    <PickOne
      :label="t('Engine preset')"
      :options="presets.map(({ words }) => ({ value: words, words }))"
      :none="t('Start from a layout and firing order')"
      :model-value="null"
      @update:model-value="$event && takePreset($event)"
    />
    <FigureEntry
      :label="t('Firing order')"
      text
      :model-value="engine.firing_order.join('-')"
      @keep="keepOrder"
    />
    <ChoiceRow
      :label="t('Firing')"
      :options="EVEN"
      :model-value="even && !odd ? 'even' : 'odd'"
      @update:model-value="keepFiring"
    />
    <FigureEntry
      v-if="!even || odd"
      :label="t('Crank degrees from each firing to the next, 720 in all')"
      text
      :model-value="engine.intervals_deg.map((i) => Math.round(i * 100) / 100).join(' ')"
      @keep="keepIntervals"
    />
    <template v-if="heads.length === 2">
      <FigureEntry
        :label="t('Bank angle')"
        suffix="°"
        :model-value="engine.bank_angle_deg"
        @keep-number="keep(() => ({ bank_angle_deg: $event ?? 0 }))"
      />
      <ChoiceRow
        :label="t('Cylinder numbers run')"
        :options="NUMBERING"
        :model-value="engine.numbering"
        @update:model-value="keep(() => ({ numbering: $event }))"
      />
      <ChoiceRow
        :label="t('Bank of cylinder 1, seen from behind')"
        :options="SIDES"
        :model-value="engine.first_bank"
        @update:model-value="keep(() => ({ first_bank: $event }))"
      />
    </template>
    <ChoiceRow
      :label="t('Turns, seen from the front')"
      :options="ROTATIONS"
      :model-value="engine.rotation"
      @update:model-value="keep(() => ({ rotation: $event }))"
    />
    <FigureEntry
      v-for="(words, i) in heads"
      :key="words"
      :label="t('Valves front to rear, {words}', { words })"
      text
      :model-value="engine.valve_orders[i] ?? ''"
      @keep="keepValves(i, $event)"
    />
    <ProblemNote :problem="refusal" @use="keepOrder" />
  </section>
</template>

<style scoped src="./section.css"></style>
