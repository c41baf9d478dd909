<script setup lang="ts">
/** A gauge as it stands on the bench: read it, and type what you read. */
import { decimal, t } from '../../kit/words'
import { computed } from 'vue'

const props = defineProps<{ inches: number; kind: 'digital' | 'dial' }>()

/** One turn of the needle is a tenth of an inch. */
const turn = computed(() => (props.inches / 0.1) * 2 * Math.PI)
const turns = computed(() => Math.trunc(props.inches / 0.1))
const marks = Array.from({ length: 50 }, (_, i) => ({
  at: (i / 50) * 2 * Math.PI,
  long: i % 5 === 0,
  label: i % 5 === 0 ? String(i * 2) : '',
}))
</script>

<template>
  <svg
    v-if="kind === 'digital'"
    class="digital"
    viewBox="0 0 96 40"
    role="img"
    :aria-label="t('Caliper')"
  >
    <rect x="1" y="1" width="94" height="38" rx="3" />
    <text x="48" y="27" text-anchor="middle">{{ decimal(inches.toFixed(4)) }}</text>
  </svg>
  <svg
    v-else
    class="dial"
    viewBox="-52 -52 104 104"
    role="img"
    :aria-label="t('Dial, thousandths')"
  >
    <circle r="50" />
    <line
      v-for="m in marks"
      :key="m.at"
      class="tick"
      :x1="(m.long ? 40 : 44) * Math.sin(m.at)"
      :y1="-(m.long ? 40 : 44) * Math.cos(m.at)"
      :x2="48 * Math.sin(m.at)"
      :y2="-48 * Math.cos(m.at)"
    />
    <text
      v-for="m in marks.filter((m) => m.label && Number(m.label) % 20 === 0)"
      :key="m.label"
      :x="31 * Math.sin(m.at)"
      :y="-31 * Math.cos(m.at) + 4"
      text-anchor="middle"
    >
      {{ m.label }}
    </text>
    <text v-if="turns" y="20" text-anchor="middle" class="turns">
      {{ t('{turns} turns', { turns }) }}
    </text>
    <line class="needle" x1="0" y1="0" :x2="42 * Math.sin(turn)" :y2="-42 * Math.cos(turn)" />
    <circle r="4" class="hub" />
  </svg>
</template>

<style scoped>
.digital {
  width: 96px;
  height: 40px;
  flex: none;
}
.digital rect {
  fill: #cfd8c2;
  stroke: var(--ink);
}
.digital text {
  font:
    600 20px ui-monospace,
    monospace;
  fill: #1c2226;
}
.dial {
  width: 120px;
  height: 120px;
  flex: none;
}
.dial > circle {
  fill: #fbf6e6;
  stroke: var(--ink);
  stroke-width: 2;
}
.dial .hub {
  fill: #1c2226;
}
.tick {
  stroke: #1c2226;
  stroke-width: 1.2;
}
.dial text {
  font-size: 10px;
  fill: #1c2226;
}
.needle {
  stroke: #c33d12;
  stroke-width: 2.5;
}
</style>
