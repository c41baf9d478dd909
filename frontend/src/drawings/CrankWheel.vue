<script setup lang="ts">
/**
 * The crank wheel: the ring is one whole cycle, 720° of crank. Each track is a valve; its arc is
 * the heel of its lobe, paler within the guard. The arm is the crank: drag it round.
 * All angles are crank degrees; nothing here decides, it only draws.
 */
import { t } from '../kit/words'
import { computed, ref } from 'vue'

export interface Heel {
  name: string
  cylinder: number
  kind: 'intake' | 'exhaust'
  from: number
  to: number
}
export interface Spoke {
  at: number
  label: string
  done: boolean
}

const props = defineProps<{
  crank: number
  guard: number
  heels: Heel[]
  tdcs: { cylinder: number; at: number }[]
  spokes: Spoke[]
  /** Valves of the stop in view; the others step back. */
  lit: string[]
  rotation: 'clockwise' | 'anticlockwise'
}>()
const emit = defineEmits<{ turn: [crank: number] }>()

const OUTER = 236
const INNER = 66
const track = computed(() => Math.min(17, (OUTER - INNER) / Math.max(props.heels.length, 1)))
const sense = computed(() => (props.rotation === 'clockwise' ? 1 : -1))

/** Where a crank angle stands on the ring: 0 on top, turning the engine's way. */
function point(crank: number, radius: number): [number, number] {
  const angle = (crank / 720) * 2 * Math.PI * sense.value
  return [Math.sin(angle) * radius, -Math.cos(angle) * radius]
}
const at = (crank: number, radius: number) =>
  point(crank, radius)
    .map((v) => v.toFixed(2))
    .join(' ')

function arc(from: number, to: number, radius: number): string {
  const large = to - from > 360 ? 1 : 0
  const sweep = sense.value > 0 ? 1 : 0
  return `M${at(from, radius)} A${radius} ${radius} 0 ${large} ${sweep} ${at(to, radius)}`
}

const tracks = computed(() =>
  props.heels.map((heel, i) => {
    const radius = OUTER - track.value * (i + 0.5)
    const guard = Math.min(props.guard, (heel.to - heel.from) / 2)
    const [x, y] = point(heel.from + guard + (26 * 150) / radius, radius)
    return {
      ...heel,
      radius,
      whole: arc(heel.from, heel.to, radius),
      safe: arc(heel.from + guard, heel.to - guard, radius),
      x,
      y,
      dim: props.lit.length > 0 && !props.lit.includes(heel.name),
    }
  }),
)
const readable = computed(() => track.value >= 8.5)

const TICKS = Array.from({ length: 24 }, (_, i) => i * 30)

const held = ref(false)
function angleOf(event: PointerEvent): number {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const dx = event.clientX - box.left - box.width / 2
  const dy = event.clientY - box.top - box.height / 2
  const turned = (Math.atan2(dx, -dy) / (2 * Math.PI)) * 720 * sense.value
  return Math.round((turned + 720) % 720) % 720
}
function grab(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held.value = true
  emit('turn', angleOf(event))
}
function drag(event: PointerEvent) {
  if (held.value) emit('turn', angleOf(event))
}
</script>

<template>
  <svg
    viewBox="-290 -290 580 580"
    class="wheel"
    role="slider"
    :aria-label="t('Crank')"
    aria-valuemin="0"
    aria-valuemax="720"
    :aria-valuenow="crank"
    :aria-valuetext="t('{crank} degrees of crank', { crank })"
    @pointerdown="grab"
    @pointermove="drag"
    @pointerup="held = false"
    @pointercancel="held = false"
  >
    <circle r="252" class="plate" />
    <circle :r="INNER - 4" class="hub" />
    <g class="ticks">
      <path
        v-for="tick in TICKS"
        :key="tick"
        :d="`M${at(tick, 238)} L${at(tick, tick % 90 ? 244 : 251)}`"
      />
    </g>
    <g class="tracks">
      <template v-for="own in tracks" :key="own.name">
        <circle :r="own.radius" class="rail" />
        <g :class="[own.kind, { dim: own.dim }]">
          <path :d="own.whole" class="guard" :stroke-width="track * 0.84" />
          <path :d="own.safe" class="heel" :stroke-width="track * 0.84" />
        </g>
      </template>
    </g>
    <g class="tdcs">
      <g v-for="tdc in tdcs" :key="tdc.cylinder">
        <path :d="`M${at(tdc.at, 252)} L${at(tdc.at, 260)}`" />
        <text :x="point(tdc.at, 273)[0]" :y="point(tdc.at, 273)[1] + 5">{{ tdc.cylinder }}</text>
      </g>
    </g>
    <g class="spokes">
      <g v-for="s in spokes" :key="s.at" :class="{ done: s.done }">
        <path :d="`M${at(s.at, INNER)} L${at(s.at, 252)}`" />
      </g>
    </g>
    <g class="arm" :class="{ held }">
      <path :d="`M${at(crank, INNER - 16)} L${at(crank, 246)}`" />
      <circle :cx="point(crank, 246)[0]" :cy="point(crank, 246)[1]" r="11" />
      <circle :cx="point(crank, INNER - 16)[0]" :cy="point(crank, INNER - 16)[1]" r="5" />
    </g>
    <g v-if="readable" class="names">
      <text
        v-for="own in tracks"
        :key="own.name"
        :x="own.x"
        :y="own.y + track * 0.34"
        :font-size="Math.min(13, track * 0.98)"
        :class="[own.kind, { dim: own.dim }]"
      >
        {{ own.name }}
      </text>
    </g>
    <g class="spoke-labels">
      <g v-for="s in spokes" :key="s.at" :class="{ done: s.done }">
        <circle :cx="point(s.at, INNER + 4)[0]" :cy="point(s.at, INNER + 4)[1]" r="9.5" />
        <text :x="point(s.at, INNER + 4)[0]" :y="point(s.at, INNER + 4)[1] + 4.5">
          {{ s.done ? '✓' : s.label }}
        </text>
      </g>
    </g>
    <text y="-2" class="degrees">{{ crank }}°</text>
    <text y="17" class="of">{{ t('of 720°') }}</text>
    <text y="34" class="of">{{ t('damper {crank}°', { crank: Math.round(crank % 360) }) }}</text>
  </svg>
</template>

<style scoped>
.wheel {
  width: 100%;
  max-width: 620px;
  display: block;
  touch-action: none;
  cursor: grab;
  user-select: none;
}
.plate {
  fill: var(--layout-blue);
  stroke: var(--layout-edge);
  stroke-width: 2;
}
.hub {
  fill: var(--paper);
  stroke: var(--layout-edge);
}
.ticks path {
  stroke: var(--scribe);
  stroke-width: 1.2;
}
.rail {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 0.5;
  stroke-opacity: 0.35;
}
.tracks path {
  fill: none;
}
.intake {
  --on: #63c3d2;
}
.exhaust {
  --on: #e9a64c;
}
.heel {
  stroke: var(--on);
}
.guard {
  stroke: var(--on);
  stroke-opacity: 0.38;
}
.tracks .dim {
  opacity: 0.28;
}
.names text {
  text-anchor: middle;
  font-weight: 600;
  fill: #0b1a2c;
  stroke: var(--on);
  stroke-width: 4;
  paint-order: stroke;
  pointer-events: none;
}
.names .dim {
  opacity: 0.8;
}
.tdcs path {
  stroke: var(--ink);
  stroke-width: 2;
}
.tdcs text {
  text-anchor: middle;
  font-size: 16px;
  font-weight: 600;
  fill: var(--ink);
}
.spokes path {
  stroke: #fff;
  stroke-width: 2.5;
  stroke-dasharray: 6 4;
}
.spokes .done path {
  stroke-opacity: 0.4;
}
.spoke-labels circle {
  fill: #fff;
  stroke: var(--layout-edge);
  stroke-width: 1.5;
}
.spoke-labels .done circle {
  fill: var(--good-on-blue);
}
.spoke-labels text {
  text-anchor: middle;
  font-size: 13px;
  font-weight: 600;
  fill: #0b1a2c;
}
.arm path {
  stroke: var(--accent-on-blue);
  stroke-width: 5;
  stroke-linecap: round;
}
.arm circle {
  fill: var(--accent-on-blue);
  stroke: #1d2327;
  stroke-width: 1.2;
}
.degrees {
  text-anchor: middle;
  font-size: 32px;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
  fill: var(--ink);
}
.of {
  text-anchor: middle;
  font-size: 13px;
  fill: var(--quiet);
  font-variant-numeric: tabular-nums;
}
</style>
