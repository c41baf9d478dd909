<script setup lang="ts">
/** Points of the exercises that were ended over the days they ended on, a line a person. */
import { t } from '../kit/words'
import { computed } from 'vue'
import { day } from '../kit/format'

const props = defineProps<{
  /** In the order they ended. */
  ended: { person: string; points: number; at: string; words: string }[]
}>()
const WIDE = 560
const HIGH = 136
const LEFT = 34
const RIGHT = 116
const times = computed(() => props.ended.map((e) => Date.parse(e.at)))
const first = computed(() => Math.min(...times.value))
const last = computed(() => Math.max(...times.value))
const x = (at: string) => {
  const part = (Date.parse(at) - first.value) / Math.max(last.value - first.value, 1)
  return LEFT + part * (WIDE - RIGHT - LEFT)
}
const days = computed(() => {
  const [from, to] = [first.value, last.value].map((t) => day(new Date(t).toISOString()))
  return from === to ? [from] : [from, to]
})
const y = (points: number) => 8 + (HIGH - 44) * (1 - points / 100)
const lines = computed(() => {
  const people = [...new Set(props.ended.map((e) => e.person))]
  return people.map((person) => {
    const own = props.ended.filter((e) => e.person === person)
    const at = own.map((e) => ({ x: x(e.at), y: y(e.points), words: e.words }))
    return { person, at, path: at.map((p) => `${p.x},${p.y}`).join(' ') }
  })
})
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDE} ${HIGH}`"
    class="progress"
    role="img"
    :aria-label="t('Points over time')"
  >
    <g v-for="p in [0, 50, 100]" :key="p" class="scale">
      <line :x1="LEFT" :x2="WIDE - RIGHT" :y1="y(p)" :y2="y(p)" />
      <text x="28" :y="y(p) + 4" text-anchor="end">{{ p }}</text>
    </g>
    <text
      v-for="(words, i) in days"
      :key="words"
      :x="i ? WIDE - RIGHT : LEFT"
      :y="HIGH - 6"
      :text-anchor="i ? 'end' : 'start'"
    >
      {{ words }}
    </text>
    <g v-for="(line, i) in lines" :key="line.person" :class="`line l${i % 4}`">
      <polyline :points="line.path" />
      <circle v-for="(p, k) in line.at" :key="k" :cx="p.x" :cy="p.y" r="4">
        <title>{{ p.words }}</title>
      </circle>
      <text :x="(line.at.at(-1)?.x ?? 0) + 9" :y="(line.at.at(-1)?.y ?? 0) + 4">
        {{ line.person || t('no name') }}
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
