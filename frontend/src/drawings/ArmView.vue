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
  /** What the figures say: the frame, or while it plays one just before it. */
  read: Frame
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
const RADIAN = Math.PI / 180

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

// Each body is drawn once, about a point of its own, and from then on only carried and turned.
const MIDDLE: Point = [0, 0]
const own = ([x, y]: Point) => `${size(x).toFixed(2)} ${size(-y).toFixed(2)}`
const carried = ([x, y]: Point, turned = 0) =>
  `translate(${px(x).toFixed(2)} ${py(y).toFixed(2)}) rotate(${(-turned).toFixed(3)})`

/** Straight flanks between two circles. */
function limb(a: Point, ra: number, b: Point, rb: number, put = own): string {
  const far = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1
  const nx = -(b[1] - a[1]) / far
  const ny = (b[0] - a[0]) / far
  const corner = (p: Point, r: number, side: number): Point => [
    p[0] + nx * r * side,
    p[1] + ny * r * side,
  ]
  const corners = [corner(a, ra, 1), corner(b, rb, 1), corner(b, rb, -1), corner(a, ra, -1)]
  return `M${corners.map(put).join('L')}Z`
}

const stem = computed(() => props.batch.stem_in)
const tipY = computed(() => -props.frame.valve)
const contact = computed<Point>(() => [props.frame.contact, tipY.value])
const roller = computed(() => props.batch.tip === 'roller')
const fulcrumX = computed(() => props.frame.fulcrum[0])
const fulcrumY = computed(() => props.frame.fulcrum[1])

// The rocker about its fulcrum, with the arm level.
/** Where a shoe's pad looks: down at half lift, turning with the arm. */
const padTurn = computed(() => {
  const rise = props.batch.tip_radius_in - fulcrumY.value - props.half
  return -Math.asin(Math.min(Math.max(rise / props.batch.arm_in, -1), 1)) / RADIAN
})
function onPad(degrees: number, radius: number): Point {
  const a = (degrees - 90 + padTurn.value) * RADIAN
  return [props.batch.arm_in + radius * Math.cos(a), radius * Math.sin(a)]
}
function pad(): string {
  const r = props.batch.tip_radius_in
  const inner = r - Math.min(0.14, r * 0.5)
  const arc = (from: number, to: number, radius: number, first: string) =>
    `${first}${own(onPad(from, radius))} A${size(radius)} ${size(radius)} 0 0 ${to > from ? 0 : 1} ${own(onPad(to, radius))}`
  return `${arc(-24, 24, r, 'M')} ${arc(24, -24, inner, 'L')}Z`
}
const rocker = computed(() => {
  const { arm_in, cup_in, tip_radius_in } = props.batch
  const bend = props.batch.bend_deg * RADIAN
  const cup = { at: [-cup_in * Math.cos(bend), -cup_in * Math.sin(bend)] as Point, r: 0.2 }
  const nose = roller.value
    ? { at: [arm_in, 0] as Point, r: tip_radius_in * 0.72 }
    : { at: onPad(0, tip_radius_in - 0.13), r: 0.13 }
  const hub = { at: MIDDLE, r: 0.25 }
  return {
    cup,
    rounds: [nose, hub, cup],
    flanks: [
      limb(nose.at, nose.r, MIDDLE, hub.r),
      limb(MIDDLE, hub.r, cup.at, cup.r),
      ...(roller.value ? [] : [pad()]),
    ],
  }
})
const turned = computed(() => carried(props.frame.fulcrum, props.frame.arm))

// The rod hangs from its cup, the lifter from the rod's seat.
const BALL = 0.15625
const rodLong = computed(() => {
  const { cup, seat } = props.frame
  return Number(Math.hypot(cup[0] - seat[0], cup[1] - seat[1]).toFixed(3))
})
const rod = computed(() => limb(MIDDLE, 0.13, [0, -rodLong.value], 0.13))
const leaning = computed(() => {
  const { cup, seat } = props.frame
  return carried(cup, Math.atan2(seat[0] - cup[0], cup[1] - seat[1]) / RADIAN)
})
const lifter = computed(() => limb([0, 0.12], 0.3, [0, -0.75], 0.3))
const stand = computed(() => {
  const a = props.batch.axis_deg * RADIAN
  const top: Point = [fulcrumX.value, fulcrumY.value]
  const foot: Point = [top[0] - Math.sin(a) * 2.6, top[1] - Math.cos(a) * 2.6]
  return props.batch.stud ? limb(top, 0.17, foot, 0.17, at) : limb(top, 0.3, foot, 0.42, at)
})

/** The spring between the retainer and its seat, which stands still. */
const coils = computed(() => {
  const top = tipY.value - 0.42
  const low = -2.4
  const coil = (low - top) / 6
  const windings = Array.from({ length: 6 }, (_, i) => {
    const y = top + coil * (i + 0.5)
    return `M${at([-0.5, y])}L${at([0.5, y + coil / 4])}`
  })
  return windings.join('')
})

const armEnd = computed<Point>(() => (roller.value ? props.frame.tip : contact.value))
const armLong = computed(() => {
  const [fx, fy] = props.frame.fulcrum
  return roller.value ? props.batch.arm_in : Math.hypot(armEnd.value[0] - fx, armEnd.value[1] - fy)
})
const armLine = computed(() => `M${own([-0.32, 0])}L${own([armLong.value + 0.4, 0])}`)
const angle = computed(() => props.frame.line)
const isHalf = computed(() => Math.abs(props.frame.valve - props.half) < 0.004)
const isSquare = (off: number) => Math.abs(off) < 0.5
const square = computed(() => isSquare(angle.value))
const words = computed(() => {
  const { line, valve } = props.read
  return {
    label: t('Rocker at valve lift {lift}, arm {angle} off square', {
      lift: small(valve, props.unit),
      angle: degrees(line),
    }),
    angle: `${decimal(Math.abs(line).toFixed(1))}°`,
    stands: isSquare(line) ? t('square') : line > 0 ? t('tip end high') : t('tip end low'),
  }
})
const sign = computed(() => {
  const r = 0.16
  const [x, y] = armEnd.value
  const a = angle.value * RADIAN
  const along: Point = [-Math.cos(a) * r, -Math.sin(a) * r]
  return `M${at([x + along[0], y + along[1]])} L${at([x + along[0], y + along[1] - r])} L${at([x, y - r])}`
})
const wedge = computed(() => {
  const r = 0.78
  const [fx, fy] = props.frame.fulcrum
  const a = angle.value * RADIAN
  const end: Point = [fx + r * Math.cos(a), fy + r * Math.sin(a)]
  return `M${at([fx + r, fy])} A${size(r)} ${size(r)} 0 0 ${angle.value > 0 ? 0 : 1} ${at(end)}`
})
/** A force's arrow, upwards from where it acts: its shaft as a thin box, its head. */
const force = computed(() => {
  const long = size({ tip: 0.12, rocker: 0.5, whole: 1 }[props.view])
  return `M-1.5 0V${13 - long}h-6L0 ${-1.5 - long}L7.5 ${13 - long}h-6V0Z`
})

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
    :aria-label="words.label"
    @pointerdown="down"
    @pointermove="$event.buttons && drag($event)"
  >
    <defs>
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
    <g v-memo="[stand, px(0)]">
      <rect class="plate" :width="WIDTH" :height="HEIGHT" />
      <path class="stand" :d="stand" />
      <path class="stand-hatch" :d="stand" />
      <line class="axis" :x1="px(0)" :x2="px(0)" y1="0" :y2="HEIGHT" />
    </g>
    <path v-if="view !== 'tip'" class="spring" :d="coils" />
    <g class="valve" :transform="carried([0, tipY])">
      <g v-memo="[stem, view, scale]">
        <rect :x="size(-stem / 2)" :width="size(stem)" :height="HEIGHT" />
        <rect
          v-if="view !== 'tip'"
          class="retainer"
          :x="size(-0.58)"
          :y="size(0.3)"
          :width="size(1.16)"
          :height="size(0.12)"
        />
      </g>
    </g>

    <path
      v-if="view === 'whole'"
      class="lifter"
      :d="lifter"
      :transform="carried(frame.seat, -batch.lifter_deg)"
    />
    <g :transform="leaning">
      <g v-memo="[rod]">
        <path class="rod" :d="rod" />
        <circle class="ball" :cy="size(rodLong)" :r="size(BALL)" />
      </g>
    </g>

    <g :transform="turned">
      <g v-memo="[rocker]">
        <!-- the outline once for its edge, once filled over it -->
        <g v-for="layer in ['edge', 'fill']" :key="layer" class="rocker" :class="layer">
          <path v-for="(path, i) in rocker.flanks" :key="i" :d="path" />
          <circle
            v-for="(c, i) in rocker.rounds"
            :key="i"
            :cx="size(c.at[0])"
            :cy="size(-c.at[1])"
            :r="size(c.r)"
          />
        </g>
        <circle
          class="ball"
          :cx="size(rocker.cup.at[0])"
          :cy="size(-rocker.cup.at[1])"
          :r="size(BALL)"
        />
        <circle
          v-if="roller"
          class="roller"
          :cx="size(batch.arm_in)"
          :r="size(batch.tip_radius_in)"
        />
      </g>
    </g>

    <line
      class="level"
      :x1="px(fulcrumX - 0.4)"
      :x2="px(stem / 2 + 0.55)"
      :y1="py(fulcrumY)"
      :y2="py(fulcrumY)"
    />
    <path class="arm" :d="armLine" :transform="carried(frame.fulcrum, angle)" />
    <path v-if="view !== 'tip'" class="wedge" :d="wedge" />
    <g class="pins">
      <circle :cx="px(fulcrumX)" :cy="py(fulcrumY)" r="6" />
      <circle :cx="px(frame.tip[0])" :cy="py(frame.tip[1])" r="4" />
    </g>
    <g v-if="isHalf" class="sign" :class="{ square }">
      <path :d="sign" />
    </g>

    <g class="forces">
      <path :d="force" :transform="carried(contact, 180)" />
      <path :d="force" :transform="leaning" />
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
      <text x="14" y="26" class="big">{{ words.angle }}</text>
      <text x="14" y="44">{{ words.stands }}</text>
      <text v-if="isHalf" x="14" y="62" class="half">{{ t('half lift') }}</text>
      <g v-memo="[bar]">
        <text :x="WIDTH - 14" y="26" class="right">{{ t('outboard →') }}</text>
        <g :transform="`translate(${WIDTH - 14 - bar.px} ${HEIGHT - 16})`">
          <path :d="`M0 -5 V5 M0 0 H${bar.px} M${bar.px} -5 V5`" class="bar" />
          <text :x="bar.px" y="-9" class="right">{{ bar.words }}</text>
        </g>
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
.spring {
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
