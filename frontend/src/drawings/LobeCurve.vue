<script setup lang="ts">
/** Both lobes over crank degrees about overlap TDC, at one scale. */
import { t } from '../kit/words'
import { computed } from 'vue'
import { small, type Unit, degrees } from '../kit/format'

const props = defineProps<{
  unit: Unit
  lobes: { kind: 'intake' | 'exhaust'; centre: number; angle: number[]; lift: number[] }[]
}>()

const WIDTH = 400
const HEIGHT = 110
const x = (crank: number) => ((crank + 360) / 720) * WIDTH
const most = computed(() => Math.max(...props.lobes.flatMap((l) => l.lift), 0.1))
const y = (lift: number) => HEIGHT - (lift / most.value) * (HEIGHT - 16)
const paths = computed(() =>
  props.lobes.map((l) => ({
    kind: l.kind,
    d: l.angle
      .map(
        (a, i) => `${i ? 'L' : 'M'}${x(a + l.centre).toFixed(1)} ${y(l.lift[i] ?? 0).toFixed(1)}`,
      )
      .join(''),
    top: Math.max(...l.lift, 0),
    at: x(l.centre),
  })),
)
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${HEIGHT + 18}`"
    role="img"
    :aria-label="t('Lobe lift over the crank')"
  >
    <rect class="plate" :width="WIDTH" :height="HEIGHT + 18" />
    <g v-for="at in [-270, -180, -90, 0, 90, 180, 270]" :key="at">
      <line class="grid" :x1="x(at)" :x2="x(at)" y1="0" :y2="HEIGHT" />
      <text class="tick" :x="x(at)" :y="HEIGHT + 14">
        {{ at === 0 ? t('TDC') : degrees(at, 0) }}
      </text>
    </g>
    <line class="base" x1="0" :x2="WIDTH" :y1="HEIGHT" :y2="HEIGHT" />
    <g v-for="p in paths" :key="p.kind" :class="p.kind">
      <path :d="p.d" />
      <text class="top" :x="p.at" :y="y(p.top) - 4">
        {{ p.kind === 'intake' ? 'I' : 'E' }} {{ small(p.top, unit) }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
}
.plate {
  fill: var(--layout-blue);
}
.grid {
  stroke: var(--scribe);
  stroke-opacity: 0.25;
}
.base {
  stroke: var(--scribe);
}
.tick {
  fill: var(--scribe);
  font-size: 12px;
  text-anchor: middle;
}
path {
  fill: none;
  stroke: var(--on);
  stroke-width: 2.5;
}
.intake {
  --on: #63c3d2;
}
.exhaust {
  --on: #e9a64c;
}
.exhaust path {
  stroke-dasharray: 7 3;
}
.top {
  fill: var(--on);
  font-size: 13px;
  font-weight: 600;
  text-anchor: middle;
}
</style>
