<script setup lang="ts">
/** The scale of a beam wrench, its pointer where a fastener moved on. */
import { t } from '../../kit/words'
const props = defineProps<{ torque: number }>()

const MOST = 40
const SPAN = 1.36
const angleOf = (value: number) => (value / MOST - 0.5) * SPAN
const pointer = () => angleOf(Math.min(props.torque, MOST))
const marks = Array.from({ length: MOST + 1 }, (_, n) => ({ n, a: angleOf(n), long: n % 10 === 0 }))
</script>

<template>
  <svg viewBox="-66 -88 132 92" role="img" :aria-label="t('Beam wrench, lbf·ft')">
    <path class="plate" d="M-60,-60 A85,85 0 0 1 60,-60 L42,-42 A60,60 0 0 0 -42,-42 Z" />
    <g v-for="m in marks" :key="m.n">
      <line
        :x1="(m.n % 5 ? 76 : 71) * Math.sin(m.a)"
        :y1="-(m.n % 5 ? 76 : 71) * Math.cos(m.a)"
        :x2="83 * Math.sin(m.a)"
        :y2="-83 * Math.cos(m.a)"
      />
      <text v-if="m.long" :x="65 * Math.sin(m.a)" :y="-65 * Math.cos(m.a) + 3" text-anchor="middle">
        {{ m.n }}
      </text>
    </g>
    <line
      class="beam"
      x1="0"
      y1="0"
      :x2="78 * Math.sin(pointer())"
      :y2="-78 * Math.cos(pointer())"
    />
    <text y="-12" x="20" class="unit">lbf·ft</text>
  </svg>
</template>

<style scoped>
svg {
  flex: none;
  width: 158px;
  height: 110px;
}
.plate {
  fill: #fbf6e6;
  stroke: var(--ink);
}
line {
  stroke: #1c2226;
  stroke-width: 1;
}
.beam {
  stroke: #c33d12;
  stroke-width: 2.5;
}
text {
  font-size: 10px;
  fill: #1c2226;
}
.unit {
  fill: var(--ink);
}
</style>
