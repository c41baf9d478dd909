<script setup lang="ts">
/** A valve train from the side, to scale: lobe, lifter, rod, rocker, valve and spring. */
import { t } from '../kit/words'
import { computed, useTemplateRef } from 'vue'
import type { Train } from '../api/client'

const props = defineProps<{
  train: Train
  /** Crank degrees, any figure. */
  crank: number
  /** How far the rod that stands there is moved within its play, 0 to 1. */
  moved: number
  /** Play and plunger drawn this many times. */
  times: number
}>()

/** Degrees the crank is turned by, with the cam dragged round by a finger. */
const emit = defineEmits<{ turn: [deg: number] }>()

const svg = useTemplateRef<SVGSVGElement>('svg')
let held: number | null = null
/** The finger's angle about the camshaft, degrees clockwise. */
function angleOf(event: PointerEvent): number | null {
  const matrix = svg.value?.getScreenCTM()
  if (!matrix) return null
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  return (Math.atan2(at.y - y(camY.value), at.x - camX.value) * 180) / Math.PI
}
function grab(event: PointerEvent) {
  held = angleOf(event)
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  const now = held === null ? null : angleOf(event)
  if (now === null || held === null) return
  const by = ((now - held + 540) % 360) - 180
  held = now
  // The cam turns at half the crank's speed.
  if (by) emit('turn', 2 * by)
}

const BASE = 0.55
const LIFTER = 0.42
const BORE = 0.3
const LEFT = -3.35
const WIDE = 4.3
/** The rod is drawn shortened by this, as a break shows; nothing else is. */
const CUT = computed(() => Math.max(Math.floor(-heel.value[1] - 3.4), 0))
const HIGH = computed(() => 1.1 - (foot.value - BASE * 2 - 0.5))

const heel = computed<[number, number]>(() => {
  const low = (props.train.ball as number[][]).reduce((a, b) => ((b[1] ?? 0) < (a[1] ?? 0) ? b : a))
  return [low[0] ?? 0, low[1] ?? 0]
})
/** Below the break everything stands higher by what was cut out. */
const down = (v: number) => v + CUT.value
const foot = computed(() => down(heel.value[1]) - 0.9)

/** Between two of the drawn stops of the crank. */
function between<T>(list: T[], mix: (one: T, other: T, part: number) => T): T | undefined {
  const turn = (((props.crank % 720) + 720) % 720) / (720 / list.length)
  const one = list[Math.floor(turn) % list.length]
  const other = list[(Math.floor(turn) + 1) % list.length]
  return one === undefined || other === undefined ? one : mix(one, other, turn % 1)
}
const number = (a: number, b: number, part: number) => a * (1 - part) + b * part
const point = (a: number[], b: number[], part: number) =>
  a.map((v, i) => number(v, b[i] ?? v, part))
const ball = computed(() => between(props.train.ball as number[][], point) ?? [])
const cup = computed(() => between(props.train.cup as number[][], point) ?? [])
const tip = computed(() => between(props.train.tip as number[][], point) ?? [])
const ballY = computed(() => down(ball.value[1] ?? 0))
const stem = computed(() => between(props.train.stem, number) ?? 0)
const lift = computed(() => (ball.value[1] ?? 0) - heel.value[1])
/** Play drawn larger ends where the rod would leave its cups. */
const MOST_PLAY = 0.34
const slack = computed(() => {
  const play = props.train.slack_in
  return Math.max(play, Math.min(play * props.times, MOST_PLAY))
})

/** How far the plunger is drawn below its ring, in the body cut open; null in a solid lifter. */
const plunger = computed(() => {
  const down = props.train.plunger_in
  return down === null ? null : Math.max(down, Math.min(down * props.times, MOST_PLAY))
})
const low = computed(() => ballY.value - (plunger.value ?? 0))

/** What the lobe lifts around its turn, smoothed: it is told no finer than an eye sees it. */
const lifts = computed(() => {
  const heights = (props.train.ball as number[][]).map((p) => (p[1] ?? 0) - heel.value[1])
  const n = heights.length
  return heights.map((_, i) => {
    let sum = 0
    for (let d = -4; d <= 4; d++) sum += heights[(i + d + n) % n] ?? 0
    return sum / 9
  })
})

/** The lobe's outline, turned to where the crank has it: half its speed. */
const lobe = computed(() => {
  const n = lifts.value.length
  return lifts.value
    .map((rise, i) => {
      const a = ((90 + ((i / n) * 720 - props.crank) / 2) * Math.PI) / 180
      return `${(BASE + rise) * Math.cos(a)},${-(BASE + rise) * Math.sin(a)}`
    })
    .join(' ')
})
const camX = computed(() => heel.value[0])
const camY = computed(() => foot.value - BASE)

/** Screen: y down. */
const y = (v: number | undefined) => -(v ?? 0)
const middle = computed(() => ({
  x: ((ball.value[0] ?? 0) + (cup.value[0] ?? 0)) / 2,
  y: y((ballY.value + (cup.value[1] ?? 0)) / 2),
}))
const arm = computed(() => {
  const [fx, fy] = props.train.fulcrum
  return `M${cup.value[0]},${y(cup.value[1])} L${fx},${y(fy)} L${tip.value[0]},${y(tip.value[1])}`
})
function coils(x: number, half: number, top: number, bottom: number, steps: number) {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const h = top + ((bottom - top) * i) / steps
    return `${x + (i % 2 ? half : -half)},${y(h)}`
  }).join(' ')
}
const spring = computed(() => coils(0, 0.3, -stem.value - 0.16, -1.75, 9))
const plungerSpring = computed(() =>
  coils(ball.value[0] ?? 0, BORE * 0.7, low.value - 0.24, ballY.value - 0.68, 6),
)
</script>

<template>
  <svg
    ref="svg"
    class="train"
    :viewBox="`${LEFT} -1.1 ${WIDE} ${HIGH}`"
    role="img"
    :aria-label="
      t('Valve train of {valve}, lobe lifting {lift}', {
        valve: train.valve,
        lift: lift > 0.005 ? t('the lifter') : t('nothing'),
      })
    "
  >
    <path class="head" d="M-1.1,1.8 H0.75 M-0.9,1.8 v0.5 M0.55,1.8 v0.5" />
    <polygon class="lobe" :points="lobe" :transform="`translate(${camX} ${y(camY)})`" />
    <circle class="shaft" :cx="camX" :cy="y(camY)" r="0.12" />
    <rect
      class="lifter"
      :x="(ball[0] ?? 0) - LIFTER"
      :y="y(ballY + 0.12)"
      :width="2 * LIFTER"
      :height="1.02"
      rx="0.05"
    />
    <template v-if="plunger !== null">
      <rect
        class="bore"
        :x="(ball[0] ?? 0) - BORE"
        :y="y(ballY + 0.12)"
        :width="2 * BORE"
        height="0.8"
      />
      <polyline class="spring" :points="plungerSpring" />
      <rect
        class="plunger"
        :x="(ball[0] ?? 0) - BORE + 0.02"
        :y="y(low)"
        :width="2 * BORE - 0.04"
        height="0.24"
      />
      <path
        class="ring"
        :d="`M${(ball[0] ?? 0) - BORE - 0.04},${y(ballY + 0.02)} h0.14 m${2 * BORE - 0.2},0 h0.14`"
      />
    </template>
    <g v-if="train.fitted" class="rod" :transform="`translate(0 ${-slack * moved})`">
      <line :x1="ball[0]" :y1="y(low)" :x2="cup[0]" :y2="y((cup[1] ?? 0) - slack)" />
      <circle :cx="ball[0]" :cy="y(low)" r="0.15" />
      <circle :cx="cup[0]" :cy="y((cup[1] ?? 0) - slack)" r="0.15" />
    </g>
    <line v-else class="no-rod" :x1="ball[0]" :y1="y(low)" :x2="cup[0]" :y2="y(cup[1])" />
    <path
      v-if="CUT"
      class="break"
      :d="`M${middle.x - 0.28},${middle.y + 0.12} l0.56,-0.14 M${middle.x - 0.28},${middle.y + 0.24} l0.56,-0.14`"
    />
    <path class="stem" :d="`M0,${stem} V2.6`" />
    <path class="retainer" :d="`M-0.42,${stem + 0.16} H0.42`" />
    <polyline class="spring" :points="spring" />
    <path class="arm" :d="arm" />
    <circle class="cup" :cx="cup[0]" :cy="y(cup[1])" r="0.2" />
    <circle class="tip" :cx="tip[0]" :cy="y(tip[1])" :r="train.radius_in" />
    <circle class="fulcrum" :cx="train.fulcrum[0]" :cy="y(train.fulcrum[1])" r="0.17" />
    <circle
      class="grip"
      :cx="camX"
      :cy="y(camY)"
      r="0.95"
      @pointerdown="grab"
      @pointermove="drag"
      @pointerup="held = null"
      @pointercancel="held = null"
    />
  </svg>
</template>

<style scoped>
.train {
  display: block;
  width: 100%;
  height: 100%;
  background: var(--layout-blue);
  border: 1px solid var(--layout-edge);
}
.train * {
  vector-effect: non-scaling-stroke;
}
.head,
.no-rod {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.5;
  opacity: 0.6;
}
.no-rod {
  stroke-dasharray: 4 5;
}
.lobe,
.lifter,
.tip,
.cup {
  fill: var(--steel);
  stroke: var(--layout-edge);
  stroke-width: 1;
}
.lifter {
  fill: #9aa6ad;
}
.bore {
  fill: var(--layout-blue);
}
.plunger {
  fill: var(--steel);
  stroke: var(--layout-edge);
}
.ring {
  fill: none;
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
}
.grip {
  fill: transparent;
  cursor: grab;
  touch-action: none;
}
.shaft,
.fulcrum {
  fill: var(--layout-blue);
  stroke: var(--scribe);
  stroke-width: 2;
}
.rod line {
  stroke: var(--accent-on-blue);
  stroke-width: 6;
}
.rod circle {
  fill: var(--accent-on-blue);
}
.stem,
.retainer {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 7;
}
.retainer {
  stroke-width: 5;
}
.break {
  fill: none;
  stroke: var(--layout-blue);
  stroke-width: 7;
}
.spring {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.6;
  opacity: 0.8;
}
.arm {
  fill: none;
  stroke: #b9c3c9;
  stroke-width: 13;
  stroke-linejoin: round;
  stroke-linecap: round;
}
</style>
