<script setup lang="ts">
/** The lifter: its plunger's travel from the clip to the bottom, and where the rod leaves it. */
import { t } from '../../kit/words'
import { computed, useId } from 'vue'
import { small } from '../../kit/format'
import { LANE, windowWords, zeroWords, type LadderLifter, type Plan } from './plan'

const props = defineProps<{
  plan: Plan
  lifter: LadderLifter
  zero: number
  spread: number | null
  /** Where the chosen rod seats the plunger, and its change from cold to hot. */
  seat: number | null
  hot: number | null
}>()
const uid = useId()

const plunger = computed(() => {
  const { x } = props.plan
  const { low, high, target, travel } = props.lifter
  const z = props.zero
  return {
    zero: x(z),
    low: x(z + low),
    high: x(z + high),
    target: x(z + target),
    bottom: x(z + travel),
    seat: props.seat === null ? null : x(props.seat),
    hot: props.seat === null || props.hot === null ? null : x(props.seat + props.hot),
  }
})
function springPath(from: number, to: number): string {
  const middle = props.plan.lane + LANE / 2
  const coils = 18
  const turns = Array.from({ length: coils }, (_, k) => {
    const at = from + ((to - from) * (k + 0.5)) / coils
    return `L${at} ${middle + (k % 2 ? 11 : -11)}`
  })
  return `M${from} ${middle} ${turns.join(' ')} L${to} ${middle}`
}

const said = computed(() => ({
  zero: zeroWords(props.zero, props.spread, props.plan.unit),
  window: windowWords(props.lifter, props.plan.unit),
  bottom: t('bottom, {travel} of travel', { travel: small(props.lifter.travel, props.plan.unit) }),
}))
const zeroLabelX = computed(() => Math.min(Math.max(plunger.value.zero, 4), props.plan.width - 240))
const bottomEnd = computed(() => Math.min(plunger.value.bottom + 16, props.plan.width - 6))
const showBottom = computed(() => {
  const start = bottomEnd.value - 7.4 * said.value.bottom.length
  const clear = start > zeroLabelX.value + 8 * said.value.zero.length
  return plunger.value.bottom < props.plan.width && clear
})
</script>

<template>
  <g class="lifter">
    <defs>
      <pattern
        :id="`${uid}-wall`"
        width="5"
        height="5"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <line x1="0" y1="0" x2="0" y2="5" class="wall-hatch" />
      </pattern>
    </defs>
    <rect
      class="bore"
      :x="plunger.zero"
      :y="plan.lane"
      :width="plunger.bottom - plunger.zero"
      :height="LANE"
      data-part="travel"
    />
    <path
      class="clip"
      :d="`M${plunger.zero} ${plan.lane - 6} v10 M${plunger.zero} ${plan.lane + LANE - 4} v10`"
    />
    <rect
      :x="plunger.bottom"
      :y="plan.lane - 6"
      width="16"
      :height="LANE + 12"
      :fill="`url(#${uid}-wall)`"
    />
    <line
      class="floor"
      :x1="plunger.bottom"
      :x2="plunger.bottom"
      :y1="plan.lane - 6"
      :y2="plan.lane + LANE + 6"
    />
    <line
      class="aim"
      :x1="plunger.target"
      :x2="plunger.target"
      :y1="plan.lane - 6"
      :y2="plan.lane + LANE + 4"
    />
    <g v-if="plunger.seat !== null">
      <rect class="piston" :x="plunger.seat" :y="plan.lane + 5" width="14" :height="LANE - 10" />
      <path
        v-if="plunger.bottom - plunger.seat > 34"
        class="spring"
        :d="springPath(plunger.seat + 14, plunger.bottom)"
      />
    </g>
    <g v-if="plunger.hot !== null" class="hot" data-part="hot">
      <path :d="`M${plunger.hot} ${plan.lane + 4} v${LANE - 8}`" />
      <text
        :x="plunger.hot + (hot! < 0 ? -6 : 22)"
        :y="plan.lane + LANE / 2 + 5"
        :class="{ left: hot! < 0 }"
      >
        {{ t('hot') }}
      </text>
    </g>
    <g class="captions">
      <text :x="zeroLabelX" :y="plan.lane + LANE + 34" text-anchor="start" class="zero-words">
        {{ said.zero }}
      </text>
      <text
        v-if="plunger.low > zeroLabelX && plunger.high - plunger.low > 40"
        :x="(plunger.low + plunger.high) / 2"
        :y="plan.lane + LANE + 15"
      >
        {{ said.window }}
      </text>
      <text v-if="showBottom" :x="bottomEnd" :y="plan.lane + LANE + 34" class="end-words">
        {{ said.bottom }}
      </text>
    </g>
  </g>
</template>

<style scoped>
.wall-hatch {
  stroke: var(--scribe);
  stroke-width: 1.4;
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
.end-words {
  text-anchor: end;
}
.zero-words {
  text-anchor: start;
  fill: #fff;
  font-weight: 600;
}
</style>
