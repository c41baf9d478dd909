<script setup lang="ts">
/**
 * The valve tip seen from above, inboard left: the mark to expect, the builder's own marks over it,
 * the contact now. The two edges of a new mark can be dragged. Inches from the tip's middle.
 */
import { t } from '../kit/words'
import { computed, ref } from 'vue'
import { small, type Unit } from '../kit/format'

export interface SeenMark {
  number: number
  low: number
  high: number
  latest: boolean
}

const props = defineProps<{
  unit: Unit
  stem: number
  contact: number
  band: { low: number; high: number }
  other?: { low: number; high: number } | null
  marks: SeenMark[]
  /** Edges being entered; None while nothing is. */
  edges: { low: number | null; high: number | null }
  clear: number
}>()
const emit = defineEmits<{ edge: [side: 'low' | 'high', inches: number] }>()

const SIZE = 300
const MIDDLE = SIZE / 2
const RADIUS = 128
const scale = computed(() => RADIUS / (props.stem / 2))
const px = (inches: number) => MIDDLE + inches * scale.value
const tall = (inches: number) => {
  const off = Math.min(Math.abs(inches * scale.value), RADIUS)
  return Math.sqrt(RADIUS * RADIUS - off * off)
}

/** Handles stand at what was entered, else at the mark to expect. */
const handles = computed(() => [
  { side: 'low' as const, at: props.edges.low ?? props.band.low, set: props.edges.low !== null },
  {
    side: 'high' as const,
    at: props.edges.high ?? props.band.high,
    set: props.edges.high !== null,
  },
])
const entering = computed(() => props.edges.low !== null || props.edges.high !== null)

const held = ref<'low' | 'high' | null>(null)
const drawn = ref<SVGSVGElement | null>(null)
function inchesOf(event: PointerEvent): number {
  const box = drawn.value?.getBoundingClientRect()
  if (!box) return 0
  const x = ((event.clientX - box.left) / box.width) * SIZE
  const inches = (x - MIDDLE) / scale.value
  const within = Math.min(Math.max(inches, -props.stem / 2), props.stem / 2)
  return Math.round(within * 1000) / 1000
}
function hold(side: 'low' | 'high', event: PointerEvent) {
  held.value = side
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  emit('edge', side, inchesOf(event))
}
function move(event: PointerEvent) {
  if (held.value) emit('edge', held.value, inchesOf(event))
}
function nudge(side: 'low' | 'high', event: KeyboardEvent) {
  const step = { ArrowRight: 0.001, ArrowLeft: -0.001 }[event.key]
  const now = handles.value.find((h) => h.side === side)?.at ?? 0
  if (!step) return
  event.preventDefault()
  event.stopPropagation()
  emit('edge', side, Math.round((now + step * (event.shiftKey ? 5 : 1)) * 1000) / 1000)
}
const words = computed(() => {
  const { low, high } = props.band
  return t('Mark to expect from {low} to {high}', {
    low: small(low, props.unit),
    high: small(high, props.unit),
  })
})
</script>

<template>
  <svg ref="drawn" :viewBox="`0 0 ${SIZE} ${SIZE}`" class="tip" role="group" :aria-label="words">
    <defs>
      <clipPath id="tip-face"><circle :cx="MIDDLE" :cy="MIDDLE" :r="RADIUS" /></clipPath>
      <pattern
        id="expect"
        width="6"
        height="6"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(35)"
      >
        <line x1="0" y1="0" x2="0" y2="6" />
      </pattern>
    </defs>
    <circle class="face" :cx="MIDDLE" :cy="MIDDLE" :r="RADIUS" />
    <g clip-path="url(#tip-face)">
      <g v-memo="[stem, band, other, marks]">
        <rect
          class="band"
          :x="px(band.low)"
          y="0"
          :width="Math.max(px(band.high) - px(band.low), 1)"
          :height="SIZE"
        />
        <rect
          class="band-hatch"
          :x="px(band.low)"
          y="0"
          :width="Math.max(px(band.high) - px(band.low), 1)"
          :height="SIZE"
        />
        <template v-if="other">
          <line
            v-for="x in [other.low, other.high]"
            :key="x"
            class="other"
            :x1="px(x)"
            :x2="px(x)"
            y1="0"
            :y2="SIZE"
          />
        </template>
        <g v-for="m in marks" :key="m.number" class="seen" :class="{ latest: m.latest }">
          <rect
            :x="px(m.low)"
            :y="MIDDLE - 44"
            :width="Math.max(px(m.high) - px(m.low), 1.5)"
            height="88"
          />
        </g>
      </g>
      <line class="contact" :x1="px(contact)" :x2="px(contact)" y1="0" :y2="SIZE" />
    </g>
    <g v-memo="[unit, stem, marks, handles, entering, clear]">
      <line
        class="stem-axis"
        :x1="MIDDLE"
        :x2="MIDDLE"
        :y1="MIDDLE - RADIUS - 6"
        :y2="MIDDLE + RADIUS + 6"
      />
      <line
        v-for="x in [-stem / 6, stem / 6]"
        :key="x"
        class="third"
        :x1="px(x)"
        :x2="px(x)"
        :y1="MIDDLE - tall(x)"
        :y2="MIDDLE + tall(x)"
      />
      <circle
        class="edge-clear"
        :cx="MIDDLE"
        :cy="MIDDLE"
        :r="Math.max(RADIUS - clear * scale, 0)"
      />
      <text
        v-for="m in marks.filter((m) => m.latest)"
        :key="m.number"
        class="number"
        :x="px((m.low + m.high) / 2)"
        :y="MIDDLE - 50"
      >
        {{ m.number }}
      </text>

      <g
        v-for="h in handles"
        :key="h.side"
        class="handle"
        :class="{ set: h.set, idle: !entering }"
        tabindex="0"
        role="slider"
        :aria-label="h.side === 'low' ? t('Inboard edge') : t('Outboard edge')"
        :aria-valuenow="Math.round(h.at * 1000)"
        :aria-valuetext="small(h.at, unit)"
        @pointerdown="hold(h.side, $event)"
        @pointermove="move"
        @pointerup="held = null"
        @keydown="nudge(h.side, $event)"
      >
        <line :x1="px(h.at)" :x2="px(h.at)" :y1="MIDDLE - tall(h.at)" y2="272" />
        <rect class="touch" :x="px(h.at) - 22" y="234" width="44" height="60" />
        <path
          :d="
            h.side === 'low'
              ? `M${px(h.at)} 268 v18 h-26 v-18 Z`
              : `M${px(h.at)} 268 v18 h26 v-18 Z`
          "
        />
      </g>
      <text class="side" x="6" y="16">{{ t('inboard') }}</text>
      <text class="side right" :x="SIZE - 6" y="16">{{ t('outboard') }}</text>
      <g :transform="`translate(6 ${SIZE - 8})`">
        <path class="bar" :d="`M0 -4 V4 M0 0 H${0.05 * scale} M${0.05 * scale} -4 V4`" />
        <text class="side" :x="0" y="-8">{{ small(0.05, unit) }}</text>
      </g>
    </g>
  </svg>
</template>

<style scoped>
.tip {
  display: block;
  width: 100%;
  touch-action: pan-y;
}
.face {
  fill: #c6cfd5;
  stroke: var(--ink);
  stroke-width: 2;
}
.band {
  fill: #f3d7c8;
}
.band-hatch {
  fill: url(#expect);
}
#expect line {
  stroke: #c33d12;
  stroke-width: 2.2;
}
.other {
  stroke: #17355c;
  stroke-width: 2;
  stroke-dasharray: 3 4;
}
.seen rect {
  fill: #17355c;
  fill-opacity: 0.12;
  stroke: #17355c;
  stroke-opacity: 0.45;
}
.seen.latest rect {
  fill-opacity: 0.55;
  stroke-opacity: 1;
  stroke-width: 2;
}
.number {
  text-anchor: middle;
  font-size: 14px;
  font-weight: 600;
  fill: #0d2340;
}
.contact {
  stroke: #1c2226;
  stroke-width: 2.5;
}
.stem-axis {
  stroke: #1c2226;
  stroke-width: 1;
  stroke-dasharray: 12 3 3 3;
}
.third,
.edge-clear {
  fill: none;
  stroke: #4a555c;
  stroke-width: 1;
  stroke-dasharray: 2 5;
}
.handle {
  cursor: ew-resize;
}
.handle line {
  stroke: var(--accent);
  stroke-width: 2;
}
.handle path {
  fill: var(--accent);
  stroke: var(--page);
}
.handle.idle {
  opacity: 0.55;
}
.handle .touch {
  fill: transparent;
}
.side {
  font-size: 16px;
  fill: var(--quiet);
}
.right {
  text-anchor: end;
}
.bar {
  stroke: var(--quiet);
  stroke-width: 1.5;
}
</style>
