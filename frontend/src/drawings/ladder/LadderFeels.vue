<script setup lang="ts">
/**
 * Before zero lash is known: what loose, zero and tight look like at the rocker and in the lifter,
 * drawn at one scale, with the preload that is aimed at.
 */
import { t } from '../../kit/words'
import { computed } from 'vue'
import { small, type Unit } from '../../kit/format'

const props = defineProps<{
  unit: Unit
  width: number
  top: number
  height: number
  /** The preload aimed at, inches; null with solid lifters. */
  target: number | null
  /** Where zero lash is expected and by what; empty where nothing is known. */
  expects: string
}>()

/** Pixels to the inch. */
const SCALE = 100
const GAP = 0.06
const cell = computed(() => props.width / 3)
const across = computed(() => (cell.value > 170 ? Math.min(cell.value, 330) : cell.value))
const left = computed(() => (props.width - 3 * across.value) / 2)
const roomy = computed(() => across.value > 200)
const feels = computed(() => {
  const down = props.target === null ? 0 : props.target * SCALE
  const open = props.target === null ? 0.03 * SCALE : 0
  const long = props.target === null ? t('the valve is held open') : t('the plunger gives')
  return [
    { name: t('Loose'), words: t('a gap, it rattles'), gap: GAP * SCALE, down: 0, open: 0 },
    { name: t('Zero'), words: t('no gap, a light drag'), gap: 0, down: 0, open: 0 },
    { name: t('Tight'), words: long, gap: 0, down, open },
  ].map((feel, i) => ({ ...feel, x: left.value + i * across.value + 14 }))
})
const scale = computed(() =>
  props.target === null
    ? t('gap drawn {GAP}', { GAP: small(GAP, props.unit) })
    : t('gap drawn {GAP}, plunger {target} down', {
        GAP: small(GAP, props.unit),
        target: small(props.target, props.unit),
      }),
)
</script>

<template>
  <g class="feels" :transform="`translate(0 ${top})`">
    <g v-for="feel in feels" :key="feel.name" :transform="`translate(${feel.x} 8)`">
      <!-- the arm's tip over the valve's stem -->
      <path class="stem" :d="`M10 ${34 + feel.open} h14 v34 h-14 Z`" />
      <path class="arm" :d="`M-2 ${12 + feel.open - feel.gap} h38`" />
      <circle class="roller" cx="17" :cy="22 + feel.open - feel.gap" r="12" />
      <!-- the rod's ball on the plunger, under its ring -->
      <template v-if="target !== null">
        <path class="body" d="M48 28 v42 h36 v-42" />
        <rect class="plunger" x="51" :y="36 + feel.down" width="30" height="20" />
        <path class="ring" d="M48 34 h7 M77 34 h7" />
      </template>
      <rect v-else class="body solid" x="48" y="36" width="36" height="34" />
      <path class="rod" :d="`M66 ${30 + feel.down - feel.gap / 2} V2`" />
      <circle class="rod" cx="66" :cy="30 + feel.down - feel.gap / 2" r="6" />
      <text :x="roomy ? 94 : 10" :y="roomy ? 34 : 88" class="name">{{ feel.name }}</text>
      <text v-if="roomy" x="94" y="54">{{ feel.words }}</text>
    </g>
    <text v-if="roomy" :x="width - 10" :y="height - 8" class="note" text-anchor="end">{{
      scale
    }}</text>
    <text v-if="expects" x="10" :y="height - 8" class="note">{{ expects }}</text>
  </g>
</template>

<style scoped>
.feels {
  font-size: 15px;
  text-anchor: start;
}
.stem,
.plunger,
.roller {
  fill: var(--steel);
  stroke: var(--layout-edge);
}
.arm {
  fill: none;
  stroke: #9aa6ad;
  stroke-width: 8;
  stroke-linecap: round;
}
.body {
  fill: none;
  stroke: #9aa6ad;
  stroke-width: 4;
}
.solid {
  fill: #9aa6ad;
}
.ring {
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
}
path.rod {
  stroke: var(--accent-on-blue);
  stroke-width: 5;
}
circle.rod {
  fill: var(--accent-on-blue);
}
text {
  fill: var(--scribe);
}
.name {
  font-weight: 600;
  font-size: 17px;
}
.note {
  font-size: 14px;
  opacity: 0.85;
}
.note[text-anchor='end'] {
  text-anchor: end;
}
</style>
