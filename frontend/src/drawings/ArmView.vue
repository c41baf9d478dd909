<script setup lang="ts">
/**
 * The arm view: valve, tip, rocker, fulcrum, cup, rod and lifter at one true scale, seen along the
 * fulcrum. Inches in the stem's frame; nothing here decides, it only draws.
 */
import { decimal, t } from '../kit/words'
import { degrees, small, type Unit } from '../kit/format'
import { computed } from 'vue'
import type { Motion } from '../api/client'
import type { Frame, Point } from './frame'

const props = defineProps<{
  batch: Motion
  frame: Frame
  closed: Frame
  view: 'whole' | 'rocker' | 'tip'
  /** Half of the net lift; the 90° sign belongs there. */
  half: number
  /** Where the contact runs at this setting, for the sweep over the tip. */
  sweep: { low: number; high: number }
  unit: Unit
}>()
const emit = defineEmits<{ lift: [share: number] }>()

const WIDTH = 500
const HEIGHT = 306

/** The window in inches: middle and height; the closed mechanism decides, so that it stands still. */
const window = computed(() => {
  const { cup, seat } = props.closed
  if (props.view === 'tip') return { x: 0.02, y: -0.08, tall: 0.62 }
  const left = cup[0] - 0.42
  const right = 0.85
  if (props.view === 'rocker') {
    const wide = right - left
    return { x: (left + right) / 2, y: -0.28, tall: (wide * HEIGHT) / WIDTH }
  }
  const low = seat[1] - 1.0
  return { x: (left + right) / 2, y: (low + 1.1) / 2, tall: 1.1 - low }
})
const scale = computed(() => HEIGHT / window.value.tall)
const px = (x: number) => WIDTH / 2 + (x - window.value.x) * scale.value
const py = (y: number) => HEIGHT / 2 - (y - window.value.y) * scale.value
const at = ([x, y]: Point) => `${px(x).toFixed(2)} ${py(y).toFixed(2)}`
const size = (inches: number) => inches * scale.value

const stem = computed(() => props.batch.stem_in)
const tipY = computed(() => -props.frame.valve)
const contact = computed<Point>(() => [props.frame.contact, tipY.value])
const roller = computed(() => props.batch.tip === 'roller')

/** Two circles joined by straight flanks. */
function limb(a: Point, ra: number, b: Point, rb: number): string {
  const far = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1
  const nx = -(b[1] - a[1]) / far
  const ny = (b[0] - a[0]) / far
  const corner = (p: Point, r: number, side: number): Point => [
    p[0] + nx * r * side,
    p[1] + ny * r * side,
  ]
  const corners = [corner(a, ra, 1), corner(b, rb, 1), corner(b, rb, -1), corner(a, ra, -1)]
  return `M${corners.map(at).join('L')}Z`
}
/** Where a shoe's pad looks: down at half lift, turning with the arm. */
const padTurn = computed(() => props.frame.arm - armAtHalf.value)
const armAtHalf = computed(() => {
  const rise = props.batch.tip_radius_in - props.frame.fulcrum[1] - props.half
  return (Math.asin(Math.min(Math.max(rise / props.batch.arm_in, -1), 1)) * 180) / Math.PI
})
function onPad(degrees: number, radius: number): Point {
  const a = ((degrees - 90 + padTurn.value) * Math.PI) / 180
  return [props.frame.tip[0] + radius * Math.cos(a), props.frame.tip[1] + radius * Math.sin(a)]
}
const pad = computed(() => {
  const r = props.batch.tip_radius_in
  const inner = r - Math.min(0.14, r * 0.5)
  const arc = (from: number, to: number, radius: number, first: string) =>
    `${first}${at(onPad(from, radius))} A${size(radius)} ${size(radius)} 0 0 ${to > from ? 0 : 1} ${at(onPad(to, radius))}`
  return `${arc(-24, 24, r, 'M')} ${arc(24, -24, inner, 'L')}Z`
})
const nose = computed<{ at: Point; r: number }>(() =>
  roller.value
    ? { at: props.frame.tip, r: props.batch.tip_radius_in * 0.72 }
    : { at: onPad(0, props.batch.tip_radius_in - 0.13), r: 0.13 },
)
const body = computed(() => [
  limb(nose.value.at, nose.value.r, props.frame.fulcrum, 0.25),
  limb(props.frame.fulcrum, 0.25, props.frame.cup, 0.2),
])
const rounds = computed(() => [
  { at: nose.value.at, r: nose.value.r },
  { at: props.frame.fulcrum, r: 0.25 },
  { at: props.frame.cup, r: 0.2 },
])

const BALL = 0.15625
const rod = computed(() => limb(props.frame.cup, 0.13, props.frame.seat, 0.13))
const lifter = computed(() => {
  const a = (props.batch.lifter_deg * Math.PI) / 180
  const along: Point = [Math.sin(a), Math.cos(a)]
  const end = (t: number): Point => [
    props.frame.seat[0] + along[0] * t,
    props.frame.seat[1] + along[1] * t,
  ]
  return limb(end(0.12), 0.3, end(-0.75), 0.3)
})
const stand = computed(() => {
  const a = (props.batch.axis_deg * Math.PI) / 180
  const foot: Point = [
    props.frame.fulcrum[0] - Math.sin(a) * 2.6,
    props.frame.fulcrum[1] - Math.cos(a) * 2.6,
  ]
  return limb(
    props.frame.fulcrum,
    props.batch.stud ? 0.17 : 0.3,
    foot,
    props.batch.stud ? 0.17 : 0.42,
  )
})

/** The spring between the retainer and its seat, which stands still. */
const coils = computed(() => {
  const top = tipY.value - 0.42
  const low = -2.4
  return Array.from({ length: 6 }, (_, i) => {
    const y = top + ((low - top) * (i + 0.5)) / 6
    const next = top + ((low - top) * (i + 1)) / 6
    return `M${at([-0.5, y])} L${at([0.5, (y + next) / 2])}`
  })
})

const armEnd = computed<Point>(() => (roller.value ? props.frame.tip : contact.value))
const armLine = computed(() => {
  const [fx, fy] = props.frame.fulcrum
  const dx = armEnd.value[0] - fx
  const dy = armEnd.value[1] - fy
  const far = Math.hypot(dx, dy) || 1
  const over = 1 + 0.4 / far
  return `M${at([fx - (dx / far) * 0.32, fy - (dy / far) * 0.32])} L${at([fx + dx * over, fy + dy * over])}`
})
const angle = computed(() => props.frame.line)
const isHalf = computed(() => Math.abs(props.frame.valve - props.half) < 0.004)
const square = computed(() => Math.abs(angle.value) < 0.5)
const sign = computed(() => {
  const r = 0.16
  const [x, y] = armEnd.value
  const a = (angle.value * Math.PI) / 180
  const along: Point = [-Math.cos(a) * r, -Math.sin(a) * r]
  return `M${at([x + along[0], y + along[1]])} L${at([x + along[0], y + along[1] - r])} L${at([x, y - r])}`
})
const wedge = computed(() => {
  const r = 0.78
  const [fx, fy] = props.frame.fulcrum
  const a = (angle.value * Math.PI) / 180
  const end: Point = [fx + r * Math.cos(a), fy + r * Math.sin(a)]
  return `M${at([fx + r, fy])} A${size(r)} ${size(r)} 0 0 ${angle.value > 0 ? 0 : 1} ${at(end)}`
})

function arrow(from: Point, towards: Point, long: number): string {
  const dx = towards[0] - from[0]
  const dy = towards[1] - from[1]
  const far = Math.hypot(dx, dy) || 1
  const end: Point = [from[0] + (dx / far) * long, from[1] + (dy / far) * long]
  return `M${at(from)} L${at(end)}`
}
const long = computed(() => (props.view === 'tip' ? 0.12 : props.view === 'rocker' ? 0.5 : 1))
const forces = computed(() => [
  arrow(contact.value, [contact.value[0], contact.value[1] - 1], long.value),
  arrow(
    props.frame.cup,
    [2 * props.frame.cup[0] - props.frame.seat[0], 2 * props.frame.cup[1] - props.frame.seat[1]],
    long.value,
  ),
])

function drag(event: PointerEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  emit('lift', Math.min(Math.max((event.clientY - box.top) / box.height - 0.15, 0) / 0.7, 1))
}
function down(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  drag(event)
}
const BARS = { in: { tip: 0.1, rocker: 0.5, whole: 1 }, mm: { tip: 2.5, rocker: 10, whole: 25 } }
const bar = computed(() => {
  const long = BARS[props.unit][props.view]
  const words = `${decimal(String(long))} ${props.unit}`
  return { words, px: size(props.unit === 'mm' ? long / 25.4 : long) }
})
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
    class="arm-view"
    role="img"
    :aria-label="
      t('Rocker at valve lift {lift}, arm {angle} off square', {
        lift: small(frame.valve, unit),
        angle: degrees(angle),
      })
    "
    @pointerdown="down"
    @pointermove="$event.buttons && drag($event)"
  >
    <defs>
      <marker
        id="force"
        viewBox="0 0 10 10"
        refX="9"
        refY="5"
        markerWidth="5"
        markerHeight="5"
        orient="auto"
      >
        <path d="M0 0 L10 5 L0 10 Z" />
      </marker>
      <pattern
        id="hatch"
        width="7"
        height="7"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <line x1="0" y1="0" x2="0" y2="7" />
      </pattern>
    </defs>
    <rect class="plate" :width="WIDTH" :height="HEIGHT" />
    <path class="stand" :d="stand" />
    <path class="stand-hatch" :d="stand" />

    <line class="axis" :x1="px(0)" :x2="px(0)" y1="0" :y2="HEIGHT" />
    <g v-if="view !== 'tip'" class="spring">
      <path v-for="(path, i) in coils" :key="i" :d="path" />
    </g>
    <g class="valve">
      <rect :x="px(-stem / 2)" :y="py(tipY)" :width="size(stem)" :height="HEIGHT" />
      <rect
        v-if="view !== 'tip'"
        class="retainer"
        :x="px(-0.58)"
        :y="py(tipY - 0.3)"
        :width="size(1.16)"
        :height="size(0.12)"
      />
    </g>

    <path v-if="view === 'whole'" class="lifter" :d="lifter" />
    <path class="rod" :d="rod" />
    <circle class="ball" :cx="px(frame.seat[0])" :cy="py(frame.seat[1])" :r="size(BALL)" />

    <!-- the outline once for its edge, once filled over it -->
    <g v-for="layer in ['edge', 'fill']" :key="layer" class="rocker" :class="layer">
      <path v-for="(path, i) in body" :key="i" :d="path" />
      <circle
        v-for="(c, i) in rounds"
        :key="i"
        :cx="px(c.at[0])"
        :cy="py(c.at[1])"
        :r="size(c.r)"
      />
      <path v-if="!roller" :d="pad" />
    </g>
    <circle class="ball" :cx="px(frame.cup[0])" :cy="py(frame.cup[1])" :r="size(BALL)" />
    <circle
      v-if="roller"
      class="roller"
      :cx="px(frame.tip[0])"
      :cy="py(frame.tip[1])"
      :r="size(batch.tip_radius_in)"
    />

    <line
      class="level"
      :x1="px(frame.fulcrum[0] - 0.4)"
      :x2="px(stem / 2 + 0.55)"
      :y1="py(frame.fulcrum[1])"
      :y2="py(frame.fulcrum[1])"
    />
    <path class="arm" :d="armLine" />
    <path v-if="view !== 'tip'" class="wedge" :d="wedge" />
    <g class="pins">
      <circle :cx="px(frame.fulcrum[0])" :cy="py(frame.fulcrum[1])" r="6" />
      <circle :cx="px(frame.tip[0])" :cy="py(frame.tip[1])" r="4" />
    </g>
    <g v-if="isHalf" class="sign" :class="{ square }">
      <path :d="sign" />
    </g>

    <g class="forces">
      <path v-for="(path, i) in forces" :key="i" :d="path" marker-end="url(#force)" />
    </g>
    <line
      class="sweep"
      :x1="px(sweep.low)"
      :x2="px(sweep.high)"
      :y1="py(tipY) + (view === 'tip' ? 9 : 4)"
      :y2="py(tipY) + (view === 'tip' ? 9 : 4)"
    />
    <circle
      class="contact"
      :cx="px(contact[0])"
      :cy="py(contact[1])"
      :r="view === 'tip' ? 5 : 3.5"
    />

    <g class="words">
      <text x="14" y="26" class="big">{{ decimal(Math.abs(angle).toFixed(1)) }}°</text>
      <text x="14" y="44">
        {{ square ? t('square') : angle > 0 ? t('tip end high') : t('tip end low') }}
      </text>
      <text v-if="isHalf" x="14" y="62" class="half">{{ t('half lift') }}</text>
      <text :x="WIDTH - 14" y="26" class="right">{{ t('outboard →') }}</text>
      <g :transform="`translate(${WIDTH - 14 - bar.px} ${HEIGHT - 16})`">
        <path :d="`M0 -5 V5 M0 0 H${bar.px} M${bar.px} -5 V5`" class="bar" />
        <text :x="bar.px" y="-9" class="right">{{ bar.words }}</text>
      </g>
    </g>
  </svg>
</template>

<style scoped>
.arm-view {
  display: block;
  width: 100%;
  touch-action: none;
  cursor: ns-resize;
}
.plate {
  fill: var(--layout-blue);
}
.axis {
  stroke: var(--scribe);
  stroke-width: 1;
  stroke-dasharray: 14 4 3 4;
  stroke-opacity: 0.7;
}
.stand {
  fill: #3d4d63;
}
.stand-hatch {
  fill: url(#hatch);
}
#hatch line {
  stroke: #60728b;
  stroke-width: 2;
}
.spring path {
  stroke: #6f8199;
  stroke-width: 5;
  stroke-linecap: round;
}
.valve rect {
  fill: #b9c4cb;
  stroke: #0b1a2c;
  stroke-width: 1;
}
.valve .retainer {
  fill: #8896a3;
}
.lifter {
  fill: #7d8b98;
  stroke: #0b1a2c;
}
.rod {
  fill: #c9d2d8;
  stroke: #0b1a2c;
}
.ball {
  fill: #9aa8b3;
  stroke: #0b1a2c;
}
.rocker path,
.rocker circle {
  fill: #dfe5e9;
}
.rocker.edge path,
.rocker.edge circle {
  stroke: #0b1a2c;
  stroke-width: 2.5;
}
.roller {
  fill: #aeb9c2;
  fill-opacity: 0.92;
  stroke: #0b1a2c;
  stroke-width: 1.5;
}
.level {
  stroke: #fff;
  stroke-width: 1.2;
  stroke-dasharray: 6 5;
}
.arm {
  stroke: var(--accent);
  stroke-width: 3.5;
  fill: none;
  stroke-linecap: round;
}
:root.dark .arm {
  stroke: #d2491a;
}
.wedge {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2;
}
.pins circle {
  fill: #0b1a2c;
  stroke: #fff;
  stroke-width: 1.5;
}
.sign path {
  fill: none;
  stroke: var(--alarm);
  stroke-width: 3;
}
.sign.square path {
  stroke: #1d7a35;
}
.forces path {
  stroke: #ffd23f;
  stroke-width: 3;
  fill: none;
}
#force path {
  fill: #ffd23f;
}
.sweep {
  stroke: #d2491a;
  stroke-width: 6;
}
.contact {
  fill: #ffd23f;
  stroke: #0b1a2c;
}
.words text {
  fill: #eaf1f8;
  font-size: 14px;
  font-variant-numeric: tabular-nums;
}
.words .big {
  font-size: 24px;
  font-weight: 600;
}
.words .half {
  fill: var(--accent-on-blue);
  font-weight: 600;
}
.words .right {
  text-anchor: end;
}
.bar {
  stroke: #eaf1f8;
  stroke-width: 1.5;
}
</style>
