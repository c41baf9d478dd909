<script setup lang="ts">
/** Every valve of the running engine on one axis of preload: cold, hot, and the window. */
import { t } from '../kit/words'
import { computed } from 'vue'
import type { EndingValve } from '../api/client'
import { bareSmall, type Unit } from '../kit/format'

const props = defineProps<{ valves: EndingValve[]; unit: Unit; low: number; high: number }>()
const ROW = 20
const TOP = 22
const WIDE = 1240
const LEFT = 60
const span = computed(() => {
  const all = props.valves.flatMap((v) => [v.cold_in, v.hot_in])
  const low = Math.min(0, ...all)
  const high = Math.max(0.08, ...all)
  return { low: low - 0.01, high: high + 0.01 }
})
const x = (v: number) =>
  LEFT + ((v - span.value.low) / (span.value.high - span.value.low)) * (WIDE - LEFT - 20)
const ticks = computed(() => {
  const step = span.value.high - span.value.low > 0.16 ? 0.05 : 0.02
  const found = []
  for (let t = Math.ceil(span.value.low / step) * step; t <= span.value.high; t += step)
    found.push(Math.round(t * 1000) / 1000)
  return found
})
</script>

<template>
  <svg
    class="strips"
    :viewBox="`0 0 ${WIDE} ${TOP + valves.length * ROW + 6}`"
    role="img"
    :aria-label="t('Preload of every valve, cold and hot')"
  >
    <rect
      class="window"
      :x="x(low)"
      :width="x(high) - x(low)"
      :y="TOP - 4"
      :height="valves.length * ROW + 4"
    />
    <g v-for="tick in ticks" :key="tick">
      <line
        class="tick"
        :class="{ nought: tick === 0 }"
        :x1="x(tick)"
        :x2="x(tick)"
        :y1="TOP - 4"
        :y2="TOP + valves.length * ROW"
      />
      <text v-if="x(tick) < WIDE - 280" :x="x(tick)" y="13" text-anchor="middle">
        {{ bareSmall(tick, unit) }}
      </text>
    </g>
    <g :transform="`translate(${WIDE - 250} 8)`">
      <circle class="cold" cx="0" cy="0" r="5" />
      <text x="10" y="5">{{ t('cold') }}</text>
      <path class="hot" d="M60,-6 l6,6 l-6,6 l-6,-6 z" />
      <text x="72" y="5">{{ t('hot') }}</text>
      <rect class="window" x="112" y="-6" width="22" height="12" />
      <text x="140" y="5">{{ t('window') }}</text>
    </g>
    <g v-for="(v, i) in valves" :key="v.name" :class="{ bad: v.runs !== 'right' }">
      <text x="6" :y="TOP + i * ROW + 15">{{ v.name }}</text>
      <line
        class="warm"
        :x1="x(v.cold_in)"
        :x2="x(v.hot_in)"
        :y1="TOP + i * ROW + 10"
        :y2="TOP + i * ROW + 10"
      />
      <circle class="cold" :cx="x(v.cold_in)" :cy="TOP + i * ROW + 10" r="6" />
      <path class="hot" :d="`M${x(v.hot_in)},${TOP + i * ROW + 3} l7,7 l-7,7 l-7,-7 z`" />
    </g>
  </svg>
</template>

<style scoped>
.strips {
  width: 100%;
  background: var(--layout-blue);
  border: 1px solid var(--layout-edge);
}
text {
  fill: var(--scribe);
  font-size: 13px;
}
.tick {
  stroke: var(--scribe);
  opacity: 0.25;
}
.window {
  fill: var(--good-on-blue);
  opacity: 0.16;
}
.nought {
  opacity: 0.8;
  stroke-width: 2;
}
.warm {
  stroke: var(--scribe);
  stroke-width: 2;
}
.cold {
  fill: var(--layout-blue);
  stroke: var(--good-on-blue);
  stroke-width: 3;
}
.hot {
  fill: var(--good-on-blue);
}
.bad .cold {
  stroke: var(--alarm-on-blue);
}
.bad .hot {
  fill: var(--alarm-on-blue);
}
.bad text {
  fill: var(--alarm-on-blue);
  font-weight: 600;
}
</style>
