<script setup lang="ts">
/**
 * The heads in plan, front to the left. Every valve is a small upright ladder at one scale: the
 * line across it is the valve's own rod, the band is where the valve wants it. Without a chosen
 * rod the line is the middle of the zero-lash lengths of its kind. Nothing here decides.
 */
import { t } from '../kit/words'
import { computed } from 'vue'
import type { Heads, HeadValve } from '../api/client'
import { small, type Unit } from '../kit/format'
import { MARKS, WORDS } from '../kit/states'
import HeadPlan, { type Look } from './HeadPlan.vue'

const props = defineProps<{
  unit: Unit
  map: Heads
  lifter: { low: number; high: number; travel: number }
  selected: string | null
  /** Valves of the sampling plan; the others step back. */
  wanted: string[]
}>()
const emit = defineEmits<{ select: [name: string]; measure: [id: string] }>()

const CELL = 72
/** One head has the page's height to itself. */
const ladder = computed(() => (props.map.heads.length > 1 ? 132 : 250))
const height = computed(() => ladder.value + 74)

const middle = computed(() => {
  const found: Record<string, number | null> = {}
  for (const kind of ['intake', 'exhaust'] as const) {
    const own = props.map.heads
      .flatMap((h) => h.valves)
      .flatMap((v) => (v.kind === kind && v.estimate_in !== null ? [v.estimate_in] : []))
      .sort((a, b) => a - b)
    found[kind] = own.length ? (own[Math.floor(own.length / 2)] ?? null) : null
  }
  return found
})
/** Where the line across the head stands, inches above zero lash of a middling valve. */
const line = (v: HeadValve) => v.rod_in ?? middle.value[v.kind] ?? null
const hasRod = (v: HeadValve) => v.rod_in !== null

const reach = computed(() => {
  const { low, high, travel } = props.lifter
  const off = props.map.heads
    .flatMap((h) => h.valves)
    .flatMap((v) => {
      const at = line(v)
      return at === null || v.estimate_in === null ? [] : [Math.abs(v.estimate_in - at)]
    })
  return Math.min(Math.max(...off, travel - low, high, 0.04) + 0.012, 0.32)
})
const perInch = computed(() => ladder.value / 2 / reach.value)
const y = (v: HeadValve, inches: number) =>
  Math.min(
    Math.max(ladder.value / 2 - (inches - (line(v) ?? inches)) * perInch.value, -2),
    ladder.value + 2,
  )

function words(v: HeadValve): string {
  const preload =
    v.preload_in === null
      ? ''
      : t(', preload {preload}', { preload: small(v.preload_in, props.unit) })
  return t('Cylinder {cylinder} {kind}: {WORDS}{preload}', {
    cylinder: v.cylinder,
    kind: t(v.kind),
    WORDS: WORDS[v.state],
    preload,
  })
}

const SHAPES: Partial<Record<HeadValve['state'], Look['shape']>> = {
  suspicious: 'triangle',
  odd: 'diamond',
  outside: 'square',
}
const look = (v: HeadValve): Look => ({
  state: v.state,
  words: words(v),
  mark: MARKS[v.state],
  shape: SHAPES[v.state] ?? 'circle',
  dim: !props.wanted.includes(v.name),
})
</script>

<template>
  <HeadPlan
    v-slot="{ valve }"
    captions
    :heads="map.heads"
    :selected="selected"
    :look="look"
    :cell="CELL"
    :gap="18"
    :narrowest="560"
    :height="height"
    :token-at="ladder + 26"
    @select="emit('select', $event.name)"
    @open="emit('measure', $event.id)"
  >
    <g class="ladder">
      <rect class="slot" x="22" :width="CELL - 44" :height="ladder" />
      <template v-if="valve.estimate_in !== null">
        <path
          class="travel"
          :d="`M${CELL / 2} ${y(valve, valve.estimate_in)} V${y(valve, valve.estimate_in + lifter.travel)} m-6 0 h12`"
        />
        <rect
          class="window"
          x="22"
          :width="CELL - 44"
          :y="y(valve, valve.estimate_in + lifter.high)"
          :height="
            y(valve, valve.estimate_in + lifter.low) - y(valve, valve.estimate_in + lifter.high)
          "
        />
        <line
          class="zero"
          x1="18"
          :x2="CELL - 18"
          :y1="y(valve, valve.estimate_in)"
          :y2="y(valve, valve.estimate_in)"
        />
      </template>
      <template v-else>
        <path
          v-if="valve.low_in !== null && line(valve) !== null"
          class="peg"
          :d="`M28 ${y(valve, valve.low_in) + 6} h16 l-8 -8 Z`"
        />
        <path
          v-if="valve.high_in !== null && line(valve) !== null"
          class="peg"
          :d="`M28 ${y(valve, valve.high_in) - 6} h16 l-8 8 Z`"
        />
      </template>
      <line
        v-if="line(valve) !== null && (hasRod(valve) || valve.estimate_in !== null)"
        class="rod"
        :class="{ chosen: hasRod(valve) }"
        x1="6"
        :x2="CELL - 6"
        :y1="ladder / 2"
        :y2="ladder / 2"
      />
    </g>
    <text class="preload" :x="CELL / 2" :y="ladder + 64">
      {{ valve.preload_in === null ? '' : small(valve.preload_in, unit) }}
    </text>
  </HeadPlan>
</template>

<style scoped>
.slot {
  fill: #0c2340;
  stroke: var(--scribe);
  stroke-opacity: 0.3;
}
.window {
  fill: var(--good-on-blue);
  opacity: 0.5;
}
.outside .window {
  fill: var(--alarm-on-blue);
}
.suspicious .window {
  fill: var(--accent-on-blue);
}
.travel {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.2;
}
.zero {
  stroke: var(--accent-on-blue);
  stroke-width: 3;
}
.rod {
  stroke: #fff;
  stroke-width: 1.5;
  stroke-dasharray: 3 3;
}
.rod.chosen {
  stroke-width: 3;
  stroke-dasharray: none;
}
.peg {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.5;
}
.preload {
  text-anchor: middle;
  font-variant-numeric: tabular-nums;
  font-size: 13px;
  font-weight: 400;
  fill: var(--scribe);
}
</style>
