<script setup lang="ts">
/** One valve kind on the board: trials, zero lash, window and rod; every one at the same scale. */
import { t } from '../kit/words'
import { computed } from 'vue'
import type { Candidate, Valve } from '../api/client'
import { bareLength, length, type Unit } from '../kit/format'

const props = defineProps<{
  unit: Unit
  kind: 'intake' | 'exhaust'
  valve: Valve | null
  taken: Candidate | null
  lifter: { low: number; high: number; travel: number }
}>()

const SPAN = 0.3
const WIDTH = 300
const x = (inches: number) => ((inches - start.value) / SPAN) * WIDTH
const zero = computed(() => props.valve?.estimate_in ?? null)
const start = computed(() => {
  const known = zero.value ?? props.valve?.low_in ?? props.valve?.high_in ?? 0
  return known - 0.06
})
const words = computed(() => {
  if (props.taken && zero.value !== null) return length(props.taken.length_in, props.unit)
  if (zero.value !== null && props.valve?.state === 'settled')
    return t('zero {zero}', { zero: bareLength(zero.value, props.unit) })
  if (zero.value !== null) return `≈ ${bareLength(zero.value, props.unit)}`
  const { low_in: low, high_in: high } = props.valve ?? {}
  if (props.valve?.state === 'conflict') return t('contradiction')
  if (low && high) return `${bareLength(low, props.unit)} … ${bareLength(high, props.unit)}`
  if (low) return `> ${bareLength(low, props.unit)}`
  if (high) return `< ${bareLength(high, props.unit)}`
  return ''
})
</script>

<template>
  <div class="mini" :class="kind">
    <span class="letter">{{ kind === 'intake' ? 'I' : 'E' }}</span>
    <span v-if="!valve?.readings" class="waits">{{ t('waits for its first reading') }}</span>
    <svg v-else :viewBox="`0 0 ${WIDTH} 26`" role="img" :aria-label="`${t(kind)}: ${words}`">
      <rect class="plate" :width="WIDTH" height="26" />
      <template v-if="valve">
        <rect
          v-if="zero !== null"
          class="window"
          :x="x(zero + lifter.low)"
          y="0"
          :width="x(lifter.high) - x(lifter.low)"
          height="26"
        />
        <path
          v-if="zero !== null"
          class="travel"
          :d="`M${x(zero)} 13 H${x(zero + lifter.travel)} m0 -7 v14`"
        />
        <rect
          v-if="valve.low_in !== null && valve.high_in !== null && valve.high_in > valve.low_in"
          class="band"
          :x="x(valve.low_in)"
          y="4"
          :width="x(valve.high_in) - x(valve.low_in)"
          height="18"
        />
        <path
          v-if="valve.low_in !== null"
          class="peg"
          :d="`M${x(valve.low_in) - 8} 7 l8 6 l-8 6 Z`"
        />
        <path
          v-if="valve.high_in !== null"
          class="peg full"
          :d="`M${x(valve.high_in) + 8} 7 l-8 6 l8 6 Z`"
        />
        <line v-if="zero !== null" class="zero" :x1="x(zero)" :x2="x(zero)" y1="0" y2="26" />
        <path
          v-if="taken && zero !== null"
          class="rod"
          :class="{ outside: !taken.inside }"
          :d="`M${x(taken.axis_in)} 6 l8 14 h-16 Z`"
        />
      </template>
    </svg>
    <span v-if="valve?.readings" class="words" :class="{ known: taken && zero !== null }">{{
      words
    }}</span>
  </div>
</template>

<style scoped>
.mini {
  display: grid;
  grid-template-columns: 24px minmax(120px, 300px) 132px;
  align-items: center;
  gap: 10px;
}
.letter {
  width: 22px;
  height: 22px;
  line-height: 20px;
  text-align: center;
  font-weight: 600;
  font-size: 14px;
  border: 2px solid var(--hue);
  box-sizing: border-box;
}
.intake .letter {
  --hue: var(--intake);
  border-radius: 50%;
}
.exhaust .letter {
  --hue: var(--exhaust);
  border-radius: 3px;
}
.waits {
  grid-column: 2 / -1;
  min-height: 26px;
  padding-left: 10px;
  color: var(--quiet);
  border-left: 3px dotted var(--rule);
}
svg {
  display: block;
  width: 100%;
}
.plate {
  fill: var(--layout-blue);
}
.window {
  fill: var(--good-on-blue);
  opacity: 0.35;
}
.travel {
  stroke: var(--scribe);
  stroke-width: 1.5;
  fill: none;
}
.band {
  fill: var(--accent-on-blue);
  opacity: 0.45;
}
.peg {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.5;
}
.peg.full {
  fill: var(--scribe);
}
.zero {
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
}
.rod {
  fill: #fff;
  stroke: #0c1c30;
}
.rod.outside {
  fill: none;
  stroke: var(--alarm-on-blue);
  stroke-width: 2;
}
.words {
  font-variant-numeric: tabular-nums;
  color: var(--quiet);
  white-space: nowrap;
}
.known {
  color: var(--ink);
  font-weight: 600;
  font-size: 18px;
}
</style>
