<script setup lang="ts">
/**
 * The length ladder: one axis of rod length. Trials are pegs, the bracket a closing band; on the
 * same axis the preload window, the plunger's travel, and the stock lengths as notches.
 * All figures are inches in one convention; nothing here decides, it only draws.
 */
import { t } from '../../kit/words'
import {
  TransitionPresets,
  useElementSize,
  usePreferredReducedMotion,
  useTransition,
} from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import { FEELS, length, type Unit } from '../../kit/format'
import { keepSpan, spanOf, type Span } from '../scale'
import LadderFeels from './LadderFeels.vue'
import LadderLifterView from './LadderLifter.vue'
import LadderPegs from './LadderPegs.vue'
import LadderReadings from './LadderReadings.vue'
import LadderRule from './LadderRule.vue'
import LadderTags from './LadderTags.vue'
import {
  LANE,
  planOf,
  tagsOf,
  windowWords,
  zeroWords,
  type LadderLifter,
  type LadderMeasure,
  type LadderNotch,
  type LadderTrial,
} from './plan'

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
  lifter: LadderLifter
  notches: LadderNotch[]
  /** What the rule reads, and what the notches are labelled in when that differs. */
  axisWords: string
  notchWords?: string
  /** Change of preload from cold to hot. */
  hot?: number | null
  solid?: boolean
  /** Where zero lash is expected and by what, before any of it is known. */
  expects?: string
  closer?: boolean
  compact?: boolean
  /** Lower, where something else needs the height. */
  low?: boolean
}>()

const frame = useTemplateRef<HTMLElement>('frame')
const { width: measured } = useElementSize(frame)

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
const plan = computed(() =>
  planOf(
    props.unit,
    Math.max(300, measured.value),
    span.value,
    props.compact ? 'compact' : props.low ? 'low' : 'full',
  ),
)
const tags = computed(() =>
  props.compact
    ? []
    : tagsOf(plan.value, props.trials, [
        ['next', t('next'), props.next],
        ['expected', t('expected'), props.expected],
        ['predicted', t('predicted'), props.predicted ?? null],
      ]),
)
const chosen = computed(() => props.notches.find((n) => n.best) ?? null)

const summary = computed(() => {
  const { unit, zero, spread, lifter } = props
  const parts = props.trials.map((trial) =>
    t('trial {number} {feel} at {length}', {
      number: trial.number,
      feel: FEELS[trial.feel],
      length: length(trial.length, unit),
    }),
  )
  if (zero !== null) parts.push(zeroWords(zero, spread, unit), windowWords(lifter, unit))
  if (chosen.value)
    parts.push(t('stock length {label}', { label: length(chosen.value.label, unit) }))
  return t('Length ladder: {a}', { a: parts.join('; ') || t('no trial yet') })
})
</script>

<template>
  <div ref="frame" class="plate" :class="{ compact }">
    <svg
      :width="plan.width"
      :height="plan.height"
      :viewBox="`0 0 ${plan.width} ${plan.height}`"
      role="img"
      :aria-label="summary"
      :data-low="span.low"
      :data-high="span.high"
    >
      <!-- preload window, through the rule's lower edge into the lifter -->
      <rect
        v-if="zero !== null"
        class="window"
        :x="plan.x(zero + lifter.low)"
        :y="plan.ruleBottom"
        :width="(lifter.high - lifter.low) * plan.perInch"
        :height="plan.lane + LANE - plan.ruleBottom"
        data-part="window"
      />
      <LadderReadings
        v-if="!compact"
        :plan="plan"
        :trials="trials"
        :measures="measures ?? []"
        :loose="loose"
        :tight="tight"
        :zero="zero"
        :ratio="ratio"
      >
        <LadderPegs :plan="plan" :tags="tags" />
      </LadderReadings>
      <!-- the checking rod lies along the rule; its ball stands at its length -->
      <g v-if="rod !== null && !compact" class="rod">
        <path :d="`M-4 ${plan.top - 28} H${plan.x(rod) - 12} V${plan.top - 10} H-4 Z`" />
        <circle
          :cx="plan.x(rod) - 9"
          :cy="plan.top - 19"
          r="9"
          data-part="rod"
          :data-length="rod"
        />
        <line :x1="plan.x(rod)" :x2="plan.x(rod)" :y1="plan.top - 34" :y2="plan.top + 10" />
      </g>

      <LadderRule :plan="plan" :notches="notches" :axis-words="axisWords" :notch-words="notchWords">
        <!-- zero lash through everything -->
        <g v-if="zero !== null" class="zero-line">
          <line
            :x1="plan.x(zero)"
            :x2="plan.x(zero)"
            :y1="plan.band"
            :y2="plan.lane + LANE + 18"
            data-part="zero"
            :data-length="zero"
          />
          <path
            v-if="spread !== null && !compact"
            :d="`M${plan.x(zero - spread)} ${plan.top - 34} h${2 * spread * plan.perInch} m0 -5 v10 m${-2 * spread * plan.perInch} 0 v-10`"
          />
        </g>
      </LadderRule>
      <LadderLifterView
        v-if="zero !== null"
        :plan="plan"
        :lifter="lifter"
        :zero="zero"
        :spread="spread"
        :seat="chosen?.axis ?? null"
        :hot="hot ?? null"
      />
      <LadderFeels
        v-else
        :unit="unit"
        :width="plan.width"
        :top="plan.ruleBottom"
        :height="plan.height - plan.ruleBottom"
        :target="solid ? null : lifter.target"
        :expects="expects ?? ''"
      />
      <LadderTags :tags="tags" />
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
  text-anchor: middle;
  font-size: 15px;
  fill: var(--scribe);
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
.window {
  fill: var(--good-on-blue);
  opacity: 0.28;
}
.zero-line line,
.zero-line path {
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
  fill: none;
}
</style>
