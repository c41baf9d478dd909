<script setup lang="ts">
/** The steel rule with its graduations, stock lengths notched into its lower edge. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import { bareLength } from '../../kit/format'
import { graduations } from '../scale'
import { RULE, type LadderNotch, type Plan } from './plan'

const props = defineProps<{
  plan: Plan
  notches: LadderNotch[]
  axisWords: string
  notchWords?: string
}>()
const ticks = computed(() => graduations(props.plan.span, props.plan.width, props.plan.unit))
const LENGTHS = { minor: 8, middle: 14, major: 20 } as const
/** One path for each size of graduation: hundreds of lines would be drawn anew at every frame. */
const lines = computed(() =>
  Object.entries(LENGTHS).map(([size, long]) => {
    const at = ticks.value.filter((tick) => tick.size === size).map((tick) => props.plan.x(tick.at))
    return { size, d: at.map((x) => `M${x.toFixed(2)} ${props.plan.top}v${long}`).join('') }
  }),
)
const name = computed(() => `${props.plan.unit}, ${props.axisWords}`)
/** As wide as a letter of the axis's name is, and half a number beside it. */
const [LETTER, BESIDE] = [6.5, 28]
const numbers = computed(() => {
  const free = props.plan.width - name.value.length * LETTER - BESIDE
  return ticks.value
    .filter((tick) => tick.label)
    .map((tick) => ({ x: props.plan.x(tick.at), label: tick.label }))
    .filter(({ x }) => x > 22 && x < free)
})

const labelled = computed(() => {
  const ranked = [...props.notches].sort((a, b) => Number(b.best) - Number(a.best))
  const taken: number[] = []
  return new Set(
    ranked
      .filter((n) => {
        const at = props.plan.x(n.axis)
        if (at < 28 || at > props.plan.width - 28 || taken.some((t) => Math.abs(t - at) < 66))
          return false
        taken.push(at)
        return true
      })
      .map((n) => n.axis),
  )
})
</script>

<template>
  <g>
    <rect class="rule" x="0" :y="plan.top" :width="plan.width" :height="RULE" />
    <slot />
    <g
      v-memo="[plan.span.low, plan.span.high, plan.width, plan.unit, axisWords, plan.top]"
      class="ticks"
    >
      <path v-for="{ size, d } in lines" :key="size" :d="d" :class="size" />
      <text v-for="{ x, label } in numbers" :key="label" :x="x" :y="plan.top + 36">
        {{ label }}
      </text>
      <text class="unit" :x="plan.width - 8" :y="plan.top + 36">{{ name }}</text>
    </g>

    <text v-if="notchWords && notches.length" class="notch-words" x="8" :y="plan.ruleBottom + 20">
      {{ t('stock lengths: {notchWords}', { notchWords }) }}
    </text>
    <!-- stock lengths, notched into the lower edge -->
    <g
      v-for="notch in notches"
      :key="notch.axis"
      class="notch"
      :class="{ inside: notch.inside, best: notch.best }"
    >
      <path
        :d="`M${plan.x(notch.axis) - 7} ${plan.ruleBottom + 0.5} L${plan.x(notch.axis)} ${plan.ruleBottom - 10} L${plan.x(notch.axis) + 7} ${plan.ruleBottom + 0.5} Z`"
        :data-notch="notch.label"
        :data-length="notch.axis"
      />
      <text v-if="labelled.has(notch.axis)" :x="plan.x(notch.axis)" :y="plan.ruleBottom + 20">
        {{ bareLength(notch.label, plan.unit) }}
      </text>
    </g>
  </g>
</template>

<style scoped>
.rule {
  fill: var(--steel);
}
.ticks path {
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
.notch-words {
  text-anchor: start;
  font-size: 14px;
}
</style>
