<script setup lang="ts">
/** Points of the exercises that were ended, one after the other, a line a person. */
import { computed } from 'vue'

const props = defineProps<{
  /** In the order they ended. */
  ended: { person: string; points: number; words: string }[]
}>()
const WIDE = 560
const HIGH = 120
const x = (i: number, n: number) => 34 + (n > 1 ? (i * (WIDE - 150)) / (n - 1) : 0)
const y = (points: number) => 8 + (HIGH - 28) * (1 - points / 100)
const lines = computed(() => {
  const people = [...new Set(props.ended.map((e) => e.person))]
  return people.map((person) => {
    const own = props.ended.filter((e) => e.person === person)
    const at = own.map((e, i) => ({ x: x(i, own.length), y: y(e.points), words: e.words }))
    return { person, at, path: at.map((p) => `${p.x},${p.y}`).join(' ') }
  })
})
</script>

<template>
  <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" class="progress" role="img" aria-label="Points over time">
    <g v-for="p in [0, 50, 100]" :key="p" class="scale">
      <line x1="34" :x2="WIDE - 116" :y1="y(p)" :y2="y(p)" />
      <text x="28" :y="y(p) + 4" text-anchor="end">{{ p }}</text>
    </g>
    <g v-for="(line, i) in lines" :key="line.person" :class="`line l${i % 4}`">
      <polyline :points="line.path" />
      <circle v-for="(p, k) in line.at" :key="k" :cx="p.x" :cy="p.y" r="4">
        <title>{{ p.words }}</title>
      </circle>
      <text :x="(line.at.at(-1)?.x ?? 0) + 9" :y="(line.at.at(-1)?.y ?? 0) + 4">
        {{ line.person || 'no name' }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.progress {
  display: block;
  width: min(100%, 680px);
}
.scale line {
  stroke: var(--rule);
}
text {
  font-size: 13px;
  fill: var(--quiet);
}
.line polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}
.line circle {
  fill: var(--ink);
}
.l1 polyline {
  stroke-dasharray: 6 3;
}
.l2 polyline {
  stroke-dasharray: 2 3;
}
.l3 polyline {
  stroke-dasharray: 9 3 2 3;
}
</style>
