<script setup lang="ts">
/**
 * The length ladder: one axis of rod length. Trials are pegs, the bracket a closing band; on the
 * same axis the preload window, the plunger's travel, and the stock lengths as notches.
 * All figures are inches in one convention; nothing here decides, it only draws.
 */
import {
  TransitionPresets,
  useElementSize,
  usePreferredReducedMotion,
  useTransition,
} from '@vueuse/core'
import { computed, useId, useTemplateRef } from 'vue'
import type { Feel } from '../api/client'
import { bareLength, length, small, smallSpan, type Unit } from '../kit/format'
import { graduations, keepSpan, rowsFor, spanOf, type Span } from './scale'

export interface LadderTrial {
  number: number
  length: number
  feel: Feel
  gap: number | null
  conflict: boolean
  pending: boolean
}
export interface LadderMeasure {
  number: number
  length: number
  spread: number
  odd: boolean
}
export interface LadderNotch {
  axis: number
  label: number
  inside: boolean
  best: boolean
}

const props = defineProps<{
  unit: Unit
  trials: LadderTrial[]
  rod: number | null
  next: number | null
  expected: number | null
  /** Zero lash predicted from what changed. */
  predicted?: number | null
  /** Measurements by other methods, each with twice its standard uncertainty. */
  measures?: LadderMeasure[]
  loose: number | null
  tight: number | null
  /** Zero-lash length and twice its standard uncertainty. */
  zero: number | null
  spread: number | null
  ratio: number
  lifter: { low: number; high: number; target: number; travel: number }
  notches: LadderNotch[]
  /** What the rule reads, and what the notches are labelled in when that differs. */
  axisWords: string
  notchWords?: string
  /** Change of preload from cold to hot. */
  hot?: number | null
  closer?: boolean
  compact?: boolean
}>()

const frame = useTemplateRef<HTMLElement>('frame')
const { width: measuredWidth } = useElementSize(frame)
const width = computed(() => Math.max(300, measuredWidth.value))
const uid = useId()

const top = computed(() => (props.compact ? 14 : 142))
const TAG = 26
const RULE = 54
const ruleBottom = computed(() => top.value + RULE)
const lane = computed(() => ruleBottom.value + 40)
const LANE = 44
const height = computed(() => lane.value + LANE + 46)
const bandTop = computed(() => (props.compact ? 6 : 92))

const wanted = computed(() => {
  const { zero, lifter } = props
  const trials = props.trials.map((t) => t.length)
  if (props.closer && (zero !== null || trials.length)) {
    const near = [props.loose, props.tight, zero, props.rod, props.next].filter((v) => v !== null)
    return { margin: 0.01, span: spanOf(near.length ? near : trials, 0.01, 0.05) }
  }
  const measured = (props.measures ?? []).map((m) => m.length)
  const tags = [props.rod, props.next, props.expected, props.predicted ?? null]
  const points = [...trials, ...measured, ...tags].filter((v) => v !== null)
  if (zero !== null) points.push(zero, zero + lifter.travel)
  if (!points.length) points.push(7.4)
  const margin = zero !== null ? 0.03 : 0.07
  return { margin, span: spanOf(points, margin, 0.22) }
})
const targetSpan = computed<Span>((old) => keepSpan(old, wanted.value.span, wanted.value.margin))

const motion = usePreferredReducedMotion()
const shown = useTransition(
  computed(() => [targetSpan.value.low, targetSpan.value.high]),
  {
    duration: 220,
    transition: TransitionPresets.easeOutCubic,
    disabled: computed(() => motion.value === 'reduce'),
  },
)
const span = computed(() => ({ low: shown.value[0] ?? 0, high: shown.value[1] ?? 1 }))
const perInch = computed(() => width.value / (span.value.high - span.value.low))
const x = (inches: number) => (inches - span.value.low) * perInch.value

const ticks = computed(() => graduations(span.value, width.value, props.unit))
const tickLength = { minor: 8, middle: 14, major: 20 }

interface Tag {
  key: string
  x: number
  width: number
  trial: LadderTrial | null
  text: string
}
const tags = computed<(Tag & { row: number })[]>(() => {
  if (props.compact) return []
  const items: Tag[] = props.trials.map((trial) => ({
    key: `trial-${trial.number}`,
    x: x(trial.length),
    width: 46,
    trial,
    text: String(trial.number),
  }))
  if (props.next !== null)
    items.push({ key: 'next', x: x(props.next), width: 48, trial: null, text: 'next' })
  if (props.expected !== null)
    items.push({ key: 'expected', x: x(props.expected), width: 72, trial: null, text: 'expected' })
  if (props.predicted != null)
    items.push({
      key: 'predicted',
      x: x(props.predicted),
      width: 76,
      trial: null,
      text: 'predicted',
    })
  const rows = rowsFor(items, 3)
  return items.map((item, i) => ({ ...item, row: rows[i] ?? 0 }))
})
const tagY = (row: number) => 8 + row * (TAG + 2)

const band = computed(() => {
  const { loose, tight } = props
  if (loose !== null && tight !== null && tight > loose)
    return { from: x(loose), to: x(tight), kind: 'both', gap: tight - loose }
  const reach = 0.06 * perInch.value
  if (loose !== null && tight === null && props.zero === null)
    return { from: x(loose), to: x(loose) + reach, kind: 'up', gap: 0 }
  if (tight !== null && loose === null && props.zero === null)
    return { from: x(tight) - reach, to: x(tight), kind: 'down', gap: 0 }
  return null
})

/** Measurements lie over the rule as bars of their uncertainty, one below the other. */
const measureBars = computed(() =>
  (props.measures ?? []).map((m, i) => ({
    ...m,
    at: x(m.length),
    from: x(m.length - m.spread),
    to: x(m.length + m.spread),
    y: bandTop.value - 8 - (i % 4) * 12,
  })),
)

const gapArrows = computed(() =>
  props.trials
    .filter((t) => t.gap !== null && !t.conflict)
    .map((t) => ({
      number: t.number,
      from: x(t.length),
      to: x(t.length + (t.gap ?? 0) / props.ratio),
    })),
)

const chosen = computed(() => props.notches.find((n) => n.best) ?? null)
const labelled = computed(() => {
  const ranked = [...props.notches].sort((a, b) => Number(b.best) - Number(a.best))
  const taken: number[] = []
  return new Set(
    ranked
      .filter((n) => {
        const at = x(n.axis)
        if (at < 28 || at > width.value - 28 || taken.some((t) => Math.abs(t - at) < 66))
          return false
        taken.push(at)
        return true
      })
      .map((n) => n.axis),
  )
})

const plunger = computed(() => {
  if (props.zero === null) return null
  const { low, high, target, travel } = props.lifter
  const z = props.zero
  return {
    zero: x(z),
    low: x(z + low),
    high: x(z + high),
    target: x(z + target),
    bottom: x(z + travel),
    seat: chosen.value ? x(chosen.value.axis) : null,
    hot: chosen.value && props.hot != null ? x(chosen.value.axis + props.hot) : null,
  }
})
function springPath(from: number, to: number): string {
  const middle = lane.value + LANE / 2
  const coils = 18
  const turns = Array.from({ length: coils }, (_, k) => {
    const at = from + ((to - from) * (k + 0.5)) / coils
    return `L${at} ${middle + (k % 2 ? 11 : -11)}`
  })
  return `M${from} ${middle} ${turns.join(' ')} L${to} ${middle}`
}
const windowWords = computed(
  () => `window ${smallSpan(props.lifter.low, props.lifter.high, props.unit)}`,
)
const zeroWords = computed(() => {
  if (props.zero === null) return ''
  const spread = props.spread === null ? '' : ` ± ${small(props.spread, props.unit)}`
  return `zero lash ${length(props.zero, props.unit)}${spread}`
})
const zeroLabelX = computed(() =>
  Math.min(Math.max(plunger.value?.zero ?? 0, 4), width.value - 240),
)

const bottomWords = computed(() => `bottom, ${small(props.lifter.travel, props.unit)} of travel`)
const bottomEnd = computed(() => Math.min((plunger.value?.bottom ?? 0) + 16, width.value - 6))
const showBottomWords = computed(() => {
  const start = bottomEnd.value - 7.4 * bottomWords.value.length
  return (
    (plunger.value?.bottom ?? 0) < width.value &&
    start > zeroLabelX.value + 8 * zeroWords.value.length
  )
})

const summary = computed(() => {
  const parts = props.trials.map(
    (t) => `trial ${t.number} ${t.feel} at ${length(t.length, props.unit)}`,
  )
  if (props.zero !== null) parts.push(zeroWords.value, windowWords.value)
  if (chosen.value) parts.push(`stock length ${length(chosen.value.label, props.unit)}`)
  return `Length ladder: ${parts.join('; ') || 'no trial yet'}`
})
</script>

<template>
  <div ref="frame" class="plate" :class="{ compact }">
    <svg
      :width="width"
      :height="height"
      :viewBox="`0 0 ${width} ${height}`"
      role="img"
      :aria-label="summary"
      :data-low="span.low"
      :data-high="span.high"
    >
      <defs>
        <pattern
          :id="`${uid}-hatch`"
          width="7"
          height="7"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <line x1="0" y1="0" x2="0" y2="7" class="hatch" />
        </pattern>
        <pattern
          :id="`${uid}-wall`"
          width="5"
          height="5"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <line x1="0" y1="0" x2="0" y2="5" class="wall-hatch" />
        </pattern>
        <linearGradient :id="`${uid}-up`">
          <stop offset="0" class="fade-full" />
          <stop offset="1" class="fade-none" />
        </linearGradient>
        <linearGradient :id="`${uid}-down`">
          <stop offset="0" class="fade-none" />
          <stop offset="1" class="fade-full" />
        </linearGradient>
      </defs>

      <!-- preload window, through the rule's lower edge into the lifter -->
      <rect
        v-if="plunger"
        class="window"
        :x="plunger.low"
        :y="ruleBottom"
        :width="plunger.high - plunger.low"
        :height="lane + LANE - ruleBottom"
        data-part="window"
      />

      <!-- closing band -->
      <g v-if="band && !compact" class="band">
        <rect
          :x="band.from"
          :y="bandTop"
          :width="Math.max(0, band.to - band.from)"
          :height="top - bandTop"
          :fill="band.kind === 'both' ? `url(#${uid}-hatch)` : `url(#${uid}-${band.kind})`"
          data-part="band"
        />
      </g>

      <!-- pegs -->
      <g
        v-for="tag in tags"
        :key="tag.key"
        class="peg"
        :class="[
          tag.trial?.feel ?? tag.key,
          { conflict: tag.trial?.conflict, pending: tag.trial?.pending },
        ]"
      >
        <line :x1="tag.x" :x2="tag.x" :y1="tagY(tag.row) + TAG" :y2="top" />
        <circle
          v-if="tag.trial"
          :cx="tag.x"
          :cy="top"
          r="4"
          :data-peg="tag.trial.number"
          :data-length="tag.trial.length"
        />
      </g>

      <!-- how wide the band is, over the lines of the pegs -->
      <text
        v-if="band && !compact && band.kind === 'both' && band.to - band.from > 70"
        :x="(band.from + band.to) / 2"
        :y="bandTop - 5"
        class="on-band"
      >
        {{ small(band.gap, unit) }}
      </text>

      <!-- gaps: from the loose rod to where the gap says zero lash is -->
      <g v-for="(arrow, i) in compact ? [] : gapArrows" :key="arrow.number" class="gap">
        <path :d="`M${arrow.from} ${bandTop + 2 + i * 6} H${arrow.to}`" />
        <path :d="`M${arrow.to} ${bandTop - 3 + i * 6} v10`" />
      </g>

      <!-- measurements by other methods -->
      <g
        v-for="m in compact ? [] : measureBars"
        :key="`m${m.number}`"
        class="measure"
        :class="{ odd: m.odd }"
      >
        <path :d="`M${m.from} ${m.y} H${m.to} M${m.from} ${m.y - 4} v8 M${m.to} ${m.y - 4} v8`" />
        <path
          class="dot"
          :d="`M${m.at} ${m.y - 6} l6 6 l-6 6 l-6 -6 Z`"
          :data-measure="m.number"
          :data-length="m.length"
        />
        <text :x="m.to + 6" :y="m.y + 5">{{ m.number }}</text>
      </g>

      <!-- the checking rod lies along the rule; its ball stands at its length -->
      <g v-if="rod !== null && !compact" class="rod">
        <path :d="`M-4 ${top - 28} H${x(rod) - 12} V${top - 10} H-4 Z`" />
        <circle :cx="x(rod) - 9" :cy="top - 19" r="9" data-part="rod" :data-length="rod" />
        <line :x1="x(rod)" :x2="x(rod)" :y1="top - 34" :y2="top + 10" />
      </g>

      <!-- steel rule -->
      <rect class="rule" x="0" :y="top" :width="width" :height="RULE" />
      <!-- zero lash through everything -->
      <g v-if="plunger" class="zero-line">
        <line
          :x1="plunger.zero"
          :x2="plunger.zero"
          :y1="bandTop"
          :y2="lane + LANE + 18"
          data-part="zero"
          :data-length="zero"
        />
        <template v-if="spread !== null">
          <path
            v-if="!compact"
            :d="`M${x(zero! - spread)} ${top - 34} h${2 * spread * perInch} m0 -5 v10 m${-2 * spread * perInch} 0 v-10`"
          />
        </template>
      </g>

      <g v-memo="[span.low, span.high, width, unit, axisWords, top]" class="ticks">
        <template v-for="tick in ticks" :key="tick.at">
          <line
            :x1="x(tick.at)"
            :x2="x(tick.at)"
            :y1="top"
            :y2="top + tickLength[tick.size]"
            :class="tick.size"
          />
          <text
            v-if="tick.label && x(tick.at) > 22 && x(tick.at) < width - 160"
            :x="x(tick.at)"
            :y="top + 36"
          >
            {{ tick.label }}
          </text>
        </template>
        <text class="unit" :x="width - 8" :y="top + 36">{{ unit }}, {{ axisWords }}</text>
      </g>

      <text v-if="notchWords && notches.length" class="notch-words" x="8" :y="ruleBottom + 20">
        stock lengths: {{ notchWords }}
      </text>
      <!-- stock lengths, notched into the lower edge -->
      <g
        v-for="notch in notches"
        :key="notch.axis"
        class="notch"
        :class="{ inside: notch.inside, best: notch.best }"
      >
        <path
          :d="`M${x(notch.axis) - 7} ${ruleBottom + 0.5} L${x(notch.axis)} ${ruleBottom - 10} L${x(notch.axis) + 7} ${ruleBottom + 0.5} Z`"
          :data-notch="notch.label"
          :data-length="notch.axis"
        />
        <text v-if="labelled.has(notch.axis)" :x="x(notch.axis)" :y="ruleBottom + 20">
          {{ bareLength(notch.label, unit) }}
        </text>
      </g>

      <text v-if="zero === null" class="hint" :x="width / 2" :y="lane + LANE / 2">
        Preload window, plunger travel and stock lengths come here with zero lash.
      </text>

      <!-- lifter: plunger travel from the clip to the bottom -->
      <g v-if="plunger" class="lifter">
        <rect
          class="bore"
          :x="plunger.zero"
          :y="lane"
          :width="plunger.bottom - plunger.zero"
          :height="LANE"
          data-part="travel"
        />
        <path
          class="clip"
          :d="`M${plunger.zero} ${lane - 6} v10 M${plunger.zero} ${lane + LANE - 4} v10`"
        />
        <rect
          :x="plunger.bottom"
          :y="lane - 6"
          width="16"
          :height="LANE + 12"
          :fill="`url(#${uid}-wall)`"
        />
        <line
          class="floor"
          :x1="plunger.bottom"
          :x2="plunger.bottom"
          :y1="lane - 6"
          :y2="lane + LANE + 6"
        />
        <line
          class="aim"
          :x1="plunger.target"
          :x2="plunger.target"
          :y1="lane - 6"
          :y2="lane + LANE + 4"
        />
        <g v-if="plunger.seat !== null">
          <rect class="piston" :x="plunger.seat" :y="lane + 5" width="14" :height="LANE - 10" />
          <path
            v-if="plunger.bottom - plunger.seat > 34"
            class="spring"
            :d="springPath(plunger.seat + 14, plunger.bottom)"
          />
        </g>
        <g v-if="plunger.hot !== null" class="hot" data-part="hot">
          <path :d="`M${plunger.hot} ${lane + 4} v${LANE - 8}`" />
          <text
            :x="plunger.hot + (hot! < 0 ? -6 : 22)"
            :y="lane + LANE / 2 + 5"
            :class="{ left: hot! < 0 }"
          >
            hot
          </text>
        </g>
        <g class="captions">
          <text :x="zeroLabelX" :y="lane + LANE + 34" text-anchor="start" class="zero-words">
            {{ zeroWords }}
          </text>
          <text
            v-if="plunger.low > zeroLabelX && plunger.high - plunger.low > 40"
            :x="(plunger.low + plunger.high) / 2"
            :y="lane + LANE + 15"
          >
            {{ windowWords }}
          </text>
          <text v-if="showBottomWords" :x="bottomEnd" :y="lane + LANE + 34" class="end-words">
            {{ bottomWords }}
          </text>
        </g>
      </g>

      <!-- paper tags last, so that no line crosses their text -->
      <g
        v-for="tag in tags"
        :key="`t-${tag.key}`"
        class="tag"
        :class="[
          tag.trial?.feel ?? tag.key,
          { conflict: tag.trial?.conflict, pending: tag.trial?.pending },
        ]"
      >
        <rect
          :x="tag.x - tag.width / 2"
          :y="tagY(tag.row)"
          :width="tag.width"
          :height="TAG"
          rx="2"
        />
        <template v-if="tag.trial">
          <text :x="tag.x - 9" :y="tagY(tag.row) + 18">{{ tag.text }}</text>
          <g :transform="`translate(${tag.x + 10} ${tagY(tag.row) + 13})`">
            <path v-if="tag.trial.feel === 'loose'" class="open" d="M-4 -6 L6 0 L-4 6 Z" />
            <path v-else-if="tag.trial.feel === 'tight'" d="M4 -6 L-6 0 L4 6 Z" />
            <path v-else d="M0 -7 L7 0 L0 7 L-7 0 Z" />
          </g>
        </template>
        <text v-else :x="tag.x" :y="tagY(tag.row) + 18">{{ tag.text }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.plate {
  background: var(--layout-blue);
  overflow: hidden;
  box-shadow: inset 0 0 0 1px var(--layout-edge);
}
svg {
  display: block;
  font-family: inherit;
  font-variant-numeric: tabular-nums;
}
text {
  text-anchor: middle;
  font-size: 15px;
  fill: var(--scribe);
}
.hatch {
  stroke: var(--accent-on-blue);
  stroke-width: 2;
}
.wall-hatch {
  stroke: var(--scribe);
  stroke-width: 1.4;
}
.fade-full {
  stop-color: var(--accent-on-blue);
  stop-opacity: 0.55;
}
.fade-none {
  stop-color: var(--accent-on-blue);
  stop-opacity: 0;
}
.band rect {
  opacity: 0.75;
}
.on-band {
  paint-order: stroke;
  stroke: var(--layout-blue);
  stroke-width: 5px;
  fill: #fff;
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--layout-blue);
  stroke-width: 5px;
}
.peg line {
  stroke: var(--scribe);
  stroke-width: 1.5;
}
.peg circle {
  fill: var(--layout-blue);
  stroke: var(--scribe);
  stroke-width: 2;
}
.peg.next line,
.peg.expected line {
  stroke-dasharray: 4 4;
}
.peg.conflict line {
  stroke: var(--alarm-on-blue);
  stroke-dasharray: 6 3;
}
.gap path {
  stroke: var(--scribe);
  stroke-width: 1.5;
  fill: none;
}
.tag rect {
  fill: #fbf6e6;
  stroke: #00000055;
}
.tag text {
  fill: #1d2327;
  font-weight: 600;
}
.tag path {
  fill: #1d2327;
  stroke: #1d2327;
  stroke-width: 1.6;
  stroke-linejoin: round;
}
.tag .open {
  fill: none;
}
.tag.next rect {
  fill: var(--accent-on-blue);
}
.tag.expected rect {
  fill: none;
  stroke: var(--scribe);
  stroke-dasharray: 4 3;
}
.tag.expected text {
  fill: var(--scribe);
}
.tag.conflict rect {
  stroke: var(--alarm-on-blue);
  stroke-width: 3;
}
.pending {
  opacity: 0.6;
}
.rod path {
  fill: #a9b3b9;
  stroke: #0c1c30;
  stroke-width: 1;
}
.rod circle {
  fill: #dfe5e8;
  stroke: #0c1c30;
  stroke-width: 1;
}
.rod line {
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
}
.rule {
  fill: var(--steel);
}
.ticks line {
  stroke: #1d2327;
  stroke-width: 1;
}
.ticks .minor {
  stroke-width: 0.7;
}
.ticks text {
  paint-order: stroke;
  stroke: var(--steel);
  stroke-width: 4px;
  fill: #1d2327;
  font-size: 14px;
}
.ticks .unit {
  text-anchor: end;
  font-weight: 600;
}
.notch path {
  fill: var(--layout-blue);
  stroke: #1d2327;
  stroke-width: 0.8;
}
.notch.inside path {
  fill: var(--good-on-blue);
}
.notch.best path {
  fill: var(--accent);
}
.notch:not(.inside) text {
  paint-order: stroke;
  stroke: var(--layout-blue);
  stroke-width: 3px;
}
.notch text {
  font-size: 14px;
}
.notch.best text {
  font-size: 17px;
  font-weight: 600;
  opacity: 1;
  fill: #fff;
}
.hint {
  opacity: 0.75;
}
.measure path {
  fill: none;
  stroke: #9fe0ea;
  stroke-width: 2;
}
.measure .dot {
  fill: #9fe0ea;
  stroke: #0b1a2c;
  stroke-width: 1;
}
.measure text {
  font-size: 14px;
  font-weight: 600;
  fill: #9fe0ea;
}
.measure.odd path {
  stroke: var(--alarm-on-blue);
  stroke-dasharray: 3 3;
}
.measure.odd .dot {
  fill: none;
  stroke: var(--alarm-on-blue);
  stroke-width: 2;
  stroke-dasharray: none;
}
.notch-words {
  text-anchor: start;
  font-size: 14px;
}
.window {
  fill: var(--good-on-blue);
  opacity: 0.28;
}
.bore {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.6;
}
.clip,
.floor {
  stroke: var(--scribe);
  stroke-width: 4;
}
.aim {
  stroke: #fff;
  stroke-width: 1.5;
  stroke-dasharray: 5 4;
}
.hot path {
  stroke: var(--accent-on-blue);
  stroke-width: 3;
  stroke-dasharray: 6 3;
}
.hot text {
  paint-order: stroke;
  stroke: var(--layout-blue);
  stroke-width: 4px;
  text-anchor: start;
  font-size: 14px;
  font-weight: 600;
}
.hot .left {
  text-anchor: end;
}
.piston {
  fill: var(--steel);
  stroke: #0c1c30;
}
.spring {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.4;
  opacity: 0.7;
}
.zero-line line,
.zero-line path {
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
  fill: none;
}
.end-words {
  text-anchor: end;
}
.zero-words {
  text-anchor: start;
  fill: #fff;
  font-weight: 600;
}
</style>
