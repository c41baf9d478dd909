<script setup lang="ts">
/**
 * Mark width over the rod's length, or over the shim: the narrowest point, where the engine stands,
 * where the exact setting lies and how well it is known, and what can be had. Drag to explore.
 */
import { t } from '../kit/words'
import { computed } from 'vue'
import { bareLength, bareSmall, small, type Unit } from '../kit/format'
import { FLAT_IN, graduations, type Span } from './scale'

const props = defineProps<{
  unit: Unit
  stud: boolean
  settings: number[]
  widths: number[]
  refused: string[]
  least: number
  stocked: number[]
  now: number
  chosen: number
  exact: { at: number; spread: number } | null
  pins: { at: number; name: string }[]
}>()
const emit = defineEmits<{ choose: [setting: number] }>()

const WIDTH = 440
const HEIGHT = 160
const LEFT = 42
const BASE = 116
const span = computed<Span>(() => ({
  low: props.settings[0] ?? 0,
  high: props.settings[props.settings.length - 1] ?? 1,
}))
const inner = WIDTH - LEFT - 12
const x = (s: number) => LEFT + ((s - span.value.low) / (span.value.high - span.value.low)) * inner
const most = computed(() =>
  Math.max(...props.widths.filter((_, i) => !barred(i)), props.least * 1.5),
)
const y = (w: number) => BASE - Math.min(w / (most.value * 1.08), 1.05) * (BASE - 16)
const barred = (i: number) => /reach|dead|nut|stand on/.test(props.refused[i] ?? '')

const path = computed(() =>
  props.settings
    .map((s, i) =>
      barred(i)
        ? ''
        : `${i && !barred(i - 1) ? 'L' : 'M'}${x(s).toFixed(1)} ${y(props.widths[i] ?? 0).toFixed(1)}`,
    )
    .join(''),
)
const flat = computed(() => {
  const open = props.widths.filter((_, i) => !barred(i))
  const best = Math.min(...open)
  return props.settings
    .map((s, i) => ({ s, w: props.widths[i] ?? 0, i }))
    .filter(({ w, i }) => !barred(i) && w <= best + FLAT_IN)
    .map(({ s, w }, i) => `${i ? 'L' : 'M'}${x(s).toFixed(1)} ${y(w).toFixed(1)}`)
    .join('')
})
/** Stretches that are refused, as spans of settings. */
const bars = computed(() => {
  const found: { from: number; to: number }[] = []
  props.refused.forEach((why, i) => {
    if (!why) return
    const s = props.settings[i] ?? 0
    const last = found[found.length - 1]
    const step = ((props.settings[1] ?? 0) - (props.settings[0] ?? 0)) * 1.01
    if (last && s - last.to <= step) last.to = s
    else found.push({ from: s, to: s })
  })
  return found
})
const widthAt = (s: number) => {
  const list = props.settings
  const step = ((list[list.length - 1] ?? 1) - (list[0] ?? 0)) / (list.length - 1)
  const at = Math.min(Math.max(Math.round((s - (list[0] ?? 0)) / step), 0), list.length - 1)
  return props.widths[at] ?? 0
}
const ticks = computed(() => graduations(span.value, inner, props.unit))
const notches = computed(() => {
  const room = inner / Math.max(props.stocked.length, 1)
  const every = Math.max(1, Math.ceil((props.stud ? 62 : 34) / room))
  return props.stocked.map((s, i) => ({ s, label: i % every === 0 }))
})
const written = (s: number) => (props.stud ? bareLength(s, props.unit) : bareSmall(s, props.unit))

function choose(event: PointerEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const at = ((event.clientX - box.left) / box.width) * WIDTH
  const s = span.value.low + ((at - LEFT) / inner) * (span.value.high - span.value.low)
  emit('choose', Math.min(Math.max(s, span.value.low), span.value.high))
}
function hold(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  choose(event)
}
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
    class="setting"
    role="img"
    :aria-label="t('Mark width over {stud}', { stud: stud ? t('rod length') : t('shim') })"
    @pointerdown="hold"
    @pointermove="$event.buttons && choose($event)"
  >
    <defs>
      <pattern
        id="barred"
        width="6"
        height="6"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <line x1="0" y1="0" x2="0" y2="6" />
      </pattern>
    </defs>
    <rect
      v-for="b in bars"
      :key="b.from"
      class="bar"
      :x="x(b.from) - 2"
      y="8"
      :width="x(b.to) - x(b.from) + 4"
      :height="BASE - 8"
    />
    <line class="least" :x1="LEFT" :x2="WIDTH - 12" :y1="y(least)" :y2="y(least)" />
    <text class="label" :x="LEFT - 6" :y="y(least) + 4">{{ bareSmall(least, unit) }}</text>
    <text class="label" :x="LEFT - 6" :y="y(most) + 4">{{ bareSmall(most, unit) }}</text>

    <rect
      v-if="exact"
      class="spread"
      :x="Math.max(x(exact.at - exact.spread), LEFT)"
      y="8"
      :width="
        Math.min(x(exact.at + exact.spread), WIDTH - 12) -
        Math.max(x(exact.at - exact.spread), LEFT)
      "
      :height="BASE - 8"
    />
    <path class="curve" :d="path" />
    <path class="flat" :d="flat">
      <title>{{ t('Within {by} of the narrowest', { by: small(FLAT_IN, unit) }) }}</title>
    </path>
    <line class="axis" :x1="LEFT" :x2="WIDTH - 12" :y1="BASE" :y2="BASE" />
    <line
      v-for="tick in ticks"
      :key="tick.at"
      class="tick"
      :x1="x(tick.at)"
      :x2="x(tick.at)"
      :y1="BASE"
      :y2="BASE + (tick.size === 'major' ? 9 : tick.size === 'middle' ? 6 : 3)"
    />
    <g v-for="n in notches" :key="n.s" class="notch" :class="{ on: Math.abs(n.s - chosen) < 1e-4 }">
      <path :d="`M${x(n.s) - 5} ${BASE + 24} l5 -10 l5 10 Z`" />
      <text v-if="n.label" :x="x(n.s)" :y="BASE + 39">{{ written(n.s) }}</text>
    </g>
    <g v-if="exact" class="exact">
      <line :x1="x(exact.at)" :x2="x(exact.at)" y1="8" :y2="BASE" />
    </g>
    <g class="now">
      <line :x1="x(now)" :x2="x(now)" y1="26" :y2="BASE" />
      <text :x="x(now)" y="21">{{ t('on the engine') }}</text>
    </g>
    <g v-for="p in pins" :key="p.name" class="pin">
      <line :x1="x(p.at)" :x2="x(p.at)" y1="30" :y2="BASE" />
      <text :x="x(p.at) + 4" y="40">{{ p.name }}</text>
    </g>
    <circle class="chosen" :cx="x(chosen)" :cy="y(widthAt(chosen))" r="7" />
  </svg>
</template>

<style scoped>
.setting {
  display: block;
  width: 100%;
  touch-action: none;
  cursor: ew-resize;
}
.bar {
  fill: url(#barred);
}
#barred line {
  stroke: var(--alarm);
  stroke-width: 1.4;
  stroke-opacity: 0.5;
}
.least {
  stroke: var(--good);
  stroke-dasharray: 4 4;
}
.spread {
  fill: var(--good);
  fill-opacity: 0.14;
}
.flat {
  fill: none;
  stroke: var(--good);
  stroke-width: 6;
  stroke-linecap: round;
}
.curve {
  fill: none;
  stroke: var(--accent);
  stroke-width: 3;
}
.axis,
.tick {
  stroke: var(--ink);
}
.tick {
  stroke-width: 1;
}
.notch path {
  fill: var(--paper);
  stroke: var(--ink);
}
.notch.on path {
  fill: var(--accent);
}
.notch text {
  font-size: 12px;
  text-anchor: middle;
  fill: var(--ink);
  font-variant-numeric: tabular-nums;
}
.exact line {
  stroke: var(--good);
  stroke-width: 2.5;
}
.now line {
  stroke: var(--ink);
  stroke-width: 1.5;
  stroke-dasharray: 5 3;
}
.now text,
.label,
.pin text {
  font-size: 13px;
  fill: var(--quiet);
}
.now text {
  text-anchor: middle;
  fill: var(--ink);
}
.label {
  text-anchor: end;
  font-variant-numeric: tabular-nums;
}
.pin line {
  stroke: var(--intake);
  stroke-width: 2;
  stroke-dasharray: 3 4;
}
.pin text {
  fill: var(--intake);
  font-weight: 600;
}
.chosen {
  fill: var(--accent);
  stroke: var(--page);
  stroke-width: 2;
}
</style>
