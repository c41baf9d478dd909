<script setup lang="ts">
/** Both ends of the rod to scale, with what the chosen convention measures between them. */
import { t } from '../kit/words'
import { computed } from 'vue'
import type { Build, Convention } from '../api/client'
import { CONVENTIONS } from '../kit/format'

const props = defineProps<{
  build: Build
  convention: Convention
  /** From the ball's centre to where the convention measures, at both ends. */
  reach: number[]
}>()

const PER_INCH = 190
const MID = 60
const ends = computed(() => {
  const b = props.build
  return [
    {
      kind: b.lifter_end,
      r: (b.lifter_ball_in / 2) * PER_INCH,
      hole: b.lifter_hole_in * PER_INCH,
      at: 70,
    },
    {
      kind: b.rocker_end,
      r: (b.rocker_ball_in / 2) * PER_INCH,
      hole: b.rocker_hole_in * PER_INCH,
      at: 350,
    },
  ] as const
})
const from = computed(() => ends.value[0].at - (props.reach[0] ?? 0) * PER_INCH)
const to = computed(() => ends.value[1].at + (props.reach[1] ?? 0) * PER_INCH)
</script>

<template>
  <svg
    viewBox="0 0 420 142"
    role="img"
    :aria-label="t('Length shown: {CONVENTIONS}', { CONVENTIONS: CONVENTIONS[convention] })"
  >
    <rect width="420" height="142" class="plate" />
    <rect :x="70" :y="MID - 22" width="280" height="44" class="tube" />
    <path
      :d="`M196 ${MID - 26} l8 18 l-8 18 l8 18 M206 ${MID - 26} l8 18 l-8 18 l8 18`"
      class="break"
    />
    <g v-for="(end, i) in ends" :key="i">
      <circle :cx="end.at" :cy="MID" :r="end.r" :class="end.kind" />
      <template v-if="end.kind === 'cup'">
        <path
          :d="`M${end.at} ${MID - end.r - 7} A${end.r + 7} ${end.r + 7} 0 0 ${i ? 0 : 1} ${end.at} ${MID + end.r + 7}`"
          class="cup-wall"
        />
      </template>
      <rect
        v-if="end.kind === 'ball' && end.hole"
        :x="i ? end.at : end.at - end.r - 2"
        :y="MID - end.hole / 2"
        :width="end.r + 2"
        :height="end.hole"
        class="hole"
      />
      <path :d="`M${end.at - 5} ${MID} h10 M${end.at} ${MID - 5} v10`" class="centre" />
    </g>
    <path :d="`M${from} 18 V118 M${to} 18 V118`" class="limit" />
    <path
      :d="`M${from} 110 H${to} M${from} 110 l9 -5 v10 Z M${to} 110 l-9 -5 v10 Z`"
      class="measure"
    />
    <text x="210" y="134">{{ CONVENTIONS[convention] }}</text>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 440px;
  display: block;
}
.plate {
  fill: var(--layout-blue);
}
.tube {
  fill: #8e9aa2;
}
.break {
  fill: none;
  stroke: var(--layout-blue);
  stroke-width: 5;
}
.ball {
  fill: #dfe5e8;
  stroke: #0c1c30;
}
.cup {
  fill: #dfe5e888;
  stroke: var(--scribe);
  stroke-dasharray: 4 3;
}
.cup-wall {
  fill: none;
  stroke: #dfe5e8;
  stroke-width: 9;
}
.hole {
  fill: var(--layout-blue);
}
.centre {
  stroke: #0c1c30;
  stroke-width: 1.2;
}
.limit {
  stroke: var(--accent-on-blue);
  stroke-width: 1.5;
  fill: none;
}
.measure {
  stroke: var(--scribe);
  fill: var(--scribe);
}
text {
  fill: var(--scribe);
  text-anchor: middle;
  font-family: inherit;
  font-size: 15px;
}
</style>
