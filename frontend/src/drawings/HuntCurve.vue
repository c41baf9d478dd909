<script setup lang="ts">
/** Net lift over what was set, to scale, with lobe × ratio above and the peak where there is one. */
import { t } from '../kit/words'
import { computed } from 'vue'
import { bareSmall, type Unit } from '../kit/format'

const props = defineProps<{
  unit: Unit
  points: { setting_in: number; lift_in: number }[]
  expected: number
  peak: number | null
  written: (setting: number) => string
}>()

const WIDTH = 320
const HEIGHT = 118
const LEFT = 44
const BASE = 96
const settings = computed(() => props.points.map((p) => p.setting_in))
const lifts = computed(() => props.points.map((p) => p.lift_in))
const low = computed(() => Math.min(...lifts.value) - 0.002)
const high = computed(() => Math.max(...lifts.value, Math.min(props.expected, 9)) + 0.002)
const x = (s: number) => {
  const first = Math.min(...settings.value)
  const wide = Math.max(...settings.value) - first || 1
  return LEFT + 14 + ((s - first) / wide) * (WIDTH - LEFT - 40)
}
const y = (lift: number) => BASE - ((lift - low.value) / (high.value - low.value)) * (BASE - 12)
const path = computed(() =>
  props.points
    .map((p, i) => `${i ? 'L' : 'M'}${x(p.setting_in).toFixed(1)} ${y(p.lift_in).toFixed(1)}`)
    .join(''),
)
const ends = computed(() => [
  settings.value[0] ?? 0,
  settings.value[settings.value.length - 1] ?? 0,
])
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
    role="img"
    :aria-label="t('Net lift over the settings tried')"
  >
    <line class="aim" :x1="LEFT" :x2="WIDTH - 6" :y1="y(expected)" :y2="y(expected)" />
    <text :x="LEFT - 6" :y="y(expected) + 4" class="end">{{ bareSmall(expected, unit) }}</text>
    <text :x="LEFT - 6" :y="y(low + 0.002) + 4" class="end">
      {{ bareSmall(low + 0.002, unit) }}
    </text>
    <line class="axis" :x1="LEFT" :x2="WIDTH - 6" :y1="BASE" :y2="BASE" />
    <line v-if="peak !== null" class="peak" :x1="x(peak)" :x2="x(peak)" y1="8" :y2="BASE" />
    <path class="curve" :d="path" />
    <circle
      v-for="p in points"
      :key="p.setting_in"
      :cx="x(p.setting_in)"
      :cy="y(p.lift_in)"
      r="4"
    />
    <text v-for="(s, i) in ends" :key="s" :x="x(s)" :y="BASE + 16" :class="i ? 'last' : 'first'">
      {{ written(s) }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
}
.aim {
  stroke: var(--good);
  stroke-dasharray: 4 4;
}
.axis {
  stroke: var(--rule);
}
.peak {
  stroke: var(--good);
  stroke-width: 2;
}
.curve {
  fill: none;
  stroke: var(--accent);
  stroke-width: 3;
}
circle {
  fill: var(--ink);
}
text {
  font-size: 12px;
  fill: var(--quiet);
}
.end,
.last {
  text-anchor: end;
}
</style>
