<script setup lang="ts">
/** What was read: the closing band, gaps, measurements by other ways. The slot lies on the band. */
import { computed, useId } from 'vue'
import { small } from '../../kit/format'
import type { LadderMeasure, LadderTrial, Plan } from './plan'

const props = defineProps<{
  plan: Plan
  trials: LadderTrial[]
  measures: LadderMeasure[]
  loose: number | null
  tight: number | null
  zero: number | null
  ratio: number
}>()
const uid = useId()

const band = computed(() => {
  const { loose, tight } = props
  const { x, perInch } = props.plan
  if (loose !== null && tight !== null && tight > loose)
    return { from: x(loose), to: x(tight), kind: 'both', gap: tight - loose }
  const reach = 0.06 * perInch
  if (loose !== null && tight === null && props.zero === null)
    return { from: x(loose), to: x(loose) + reach, kind: 'up', gap: 0 }
  if (tight !== null && loose === null && props.zero === null)
    return { from: x(tight) - reach, to: x(tight), kind: 'down', gap: 0 }
  return null
})

/** Measurements lie over the rule as bars of their uncertainty, one below the other. */
const measureBars = computed(() =>
  props.measures.map((m, i) => ({
    ...m,
    at: props.plan.x(m.length),
    from: props.plan.x(m.length - m.spread),
    to: props.plan.x(m.length + m.spread),
    y: props.plan.band - 8 - (i % 4) * 12,
  })),
)

/** From the loose rod to where the gap says zero lash is. */
const gapArrows = computed(() =>
  props.trials
    .filter((t) => t.gap !== null && !t.conflict)
    .map((t) => ({
      number: t.number,
      from: props.plan.x(t.length),
      to: props.plan.x(t.length + (t.gap ?? 0) / props.ratio),
    })),
)
</script>

<template>
  <g>
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
      <linearGradient :id="`${uid}-up`">
        <stop offset="0" class="fade-full" />
        <stop offset="1" class="fade-none" />
      </linearGradient>
      <linearGradient :id="`${uid}-down`">
        <stop offset="0" class="fade-none" />
        <stop offset="1" class="fade-full" />
      </linearGradient>
    </defs>
    <g v-if="band" class="band">
      <rect
        :x="band.from"
        :y="plan.band"
        :width="Math.max(0, band.to - band.from)"
        :height="plan.top - plan.band"
        :fill="band.kind === 'both' ? `url(#${uid}-hatch)` : `url(#${uid}-${band.kind})`"
        data-part="band"
      />
    </g>

    <slot />
    <!-- how wide the band is, over the lines of the pegs -->
    <text
      v-if="band && band.kind === 'both' && band.to - band.from > 70"
      :x="(band.from + band.to) / 2"
      :y="plan.band - 5"
      class="on-band"
    >
      {{ small(band.gap, plan.unit) }}
    </text>

    <!-- gaps: from the loose rod to where the gap says zero lash is -->
    <g v-for="(arrow, i) in gapArrows" :key="arrow.number" class="gap">
      <path :d="`M${arrow.from} ${plan.band + 2 + i * 6} H${arrow.to}`" />
      <path :d="`M${arrow.to} ${plan.band - 3 + i * 6} v10`" />
    </g>

    <!-- measurements by other methods -->
    <g v-for="m in measureBars" :key="`m${m.number}`" class="measure" :class="{ odd: m.odd }">
      <path :d="`M${m.from} ${m.y} H${m.to} M${m.from} ${m.y - 4} v8 M${m.to} ${m.y - 4} v8`" />
      <path
        class="dot"
        :d="`M${m.at} ${m.y - 6} l6 6 l-6 6 l-6 -6 Z`"
        :data-measure="m.number"
        :data-length="m.length"
      />
      <text :x="m.to + 6" :y="m.y + 5">{{ m.number }}</text>
    </g>
  </g>
</template>

<style scoped>
.hatch {
  stroke: var(--accent-on-blue);
  stroke-width: 2;
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
.gap path {
  stroke: var(--scribe);
  stroke-width: 1.5;
  fill: none;
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
</style>
