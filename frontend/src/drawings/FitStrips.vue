<script setup lang="ts">
/**
 * Every valve's plunger on one scale, from the clip (0) to its bottom: the window as a band, the
 * preload cold with twice its uncertainty, and hot. Rods of one length stand together.
 */
import { t } from '../kit/words'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Decision } from '../api/client'
import { percent, bareLength, small, type Unit } from '../kit/format'

const props = defineProps<{
  unit: Unit
  rows: Decision['rows']
  lots: Decision['lots']
  lifter: { low: number; high: number; target: number; travel: number }
  tolerance: number
}>()

const frame = useTemplateRef<HTMLElement>('frame')
const { width: seen } = useElementSize(frame)
const width = computed(() => Math.max(340, seen.value))
/** On a phone the length stands above its valves, and the chance is left to the wider screens. */
const narrow = computed(() => width.value < 620)
const name = computed(() => (narrow.value ? 44 : 132))
const wordsWidth = computed(() => (narrow.value ? 78 : 148))
const head = computed(() => (narrow.value ? 28 : 10))
const ROW = 23
const TOP = 24

const reach = computed(() => {
  const all = props.rows.flatMap((r) => [r.preload_in, r.hot_in ?? r.preload_in])
  const low = Math.min(0, ...all) - 0.006
  const high = Math.max(props.lifter.travel, ...all) + 0.006
  return { low, high }
})
const x = (inches: number) =>
  name.value +
  ((inches - reach.value.low) / (reach.value.high - reach.value.low)) *
    (width.value - name.value - wordsWidth.value)

const groups = computed(() => {
  let y = TOP
  return props.lots.map((lot) => {
    const at = y
    y += head.value
    const rows = props.rows
      .filter((r) => lot.valves.includes(r.name))
      .map((row) => {
        const top = y
        y += ROW
        return { row, y: top }
      })
    y += 8
    return { lot, head: at, rows, end: y }
  })
})
const height = computed(() => (groups.value.at(-1)?.end ?? TOP) + 4)
const half = (r: Decision['rows'][number]) => 2 * r.u_in + props.tolerance
const words = (r: Decision['rows'][number]) =>
  t('{name}: preload {preload}{standing}', {
    name: r.name,
    preload: small(r.preload_in, props.unit),
    standing: r.standing === 'inside' ? '' : `, ${r.standing}`,
  })
</script>

<template>
  <div ref="frame" class="plate">
    <svg
      :width="width"
      :height="height"
      :viewBox="`0 0 ${width} ${height}`"
      role="img"
      :aria-label="t('Preload of every valve: {a}', { a: rows.map(words).join('; ') })"
    >
      <rect
        class="window"
        :x="x(lifter.low)"
        :width="x(lifter.high) - x(lifter.low)"
        :y="TOP"
        :height="height - TOP"
        data-part="window"
      />
      <line class="aim" :x1="x(lifter.target)" :x2="x(lifter.target)" :y1="TOP" :y2="height" />
      <line class="end" :x1="x(0)" :x2="x(0)" :y1="TOP - 4" :y2="height" />
      <line
        class="end bottom"
        :x1="x(lifter.travel)"
        :x2="x(lifter.travel)"
        :y1="TOP - 4"
        :y2="height"
      />
      <text v-if="!narrow" class="cap" :x="x(0)" y="16">{{ t('zero lash') }}</text>
      <text class="cap" :x="x(lifter.travel)" y="16">{{ t('bottom') }}</text>
      <text
        v-if="(x(lifter.low) + x(lifter.high)) / 2 - x(0) > 70"
        class="cap"
        :x="(x(lifter.low) + x(lifter.high)) / 2"
        y="16"
      >
        {{ t('window') }}
      </text>
      <g class="key">
        <circle class="cold" cx="16" cy="11" r="5" />
        <text x="26" y="16">{{ t('cold') }}</text>
        <template v-if="rows.some((r) => r.hot_in !== null)">
          <path class="hot" d="M74 4 l6 7 l-6 7 l-6 -7 Z" />
          <text x="85" y="16">{{ t('hot') }}</text>
        </template>
      </g>
      <text v-if="!narrow" class="cap right" :x="width - 6" y="16">
        {{ t('cold · chance inside') }}
      </text>
      <g v-for="g in groups" :key="g.lot.length_in">
        <text class="lot" x="8" :y="g.head + 20">
          {{ g.lot.valves.length }} × {{ bareLength(g.lot.length_in, unit) }}
        </text>
        <line class="rule" x1="0" :x2="width" :y1="g.head + 2" :y2="g.head + 2" />
        <g
          v-for="{ row, y } in g.rows"
          :key="row.name"
          class="valve"
          :class="[
            row.kind,
            {
              outside: row.standing === 'outside',
              limit: row.standing === 'at the limit',
              inferred: row.inferred,
            },
          ]"
          :transform="`translate(0 ${y})`"
        >
          <circle v-if="row.kind === 'intake'" class="token" :cx="name - 28" cy="11" r="10" />
          <rect v-else class="token" :x="name - 38" y="1" width="20" height="20" rx="2" />
          <text class="name" :x="name - 28" y="15">{{ row.name }}</text>
          <path
            class="whisker"
            :d="`M${x(row.preload_in - half(row))} 11 H${x(row.preload_in + half(row))} m0 -5 v10 M${x(row.preload_in - half(row))} 6 v10`"
          />
          <path
            v-if="row.hot_in !== null"
            class="move"
            :d="`M${x(row.preload_in)} 11 H${x(row.hot_in)}`"
          />
          <path
            v-if="row.hot_in !== null"
            class="hot"
            :d="`M${x(row.hot_in)} 3 l7 8 l-7 8 l-7 -8 Z`"
            :data-hot="row.name"
          />
          <circle
            class="cold"
            :cx="x(row.preload_in)"
            cy="11"
            r="6"
            :data-cold="row.name"
            :data-preload="row.preload_in"
          />
          <text class="figure" :x="narrow ? width - 8 : width - 76" y="16">
            {{ small(row.preload_in, unit) }}
          </text>
          <text v-if="!narrow" class="figure" :x="width - 8" y="16">
            {{ percent(row.chances.cold) }}
          </text>
        </g>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.plate {
  background: var(--layout-blue);
  overflow-x: auto;
  box-shadow: inset 0 0 0 1px var(--layout-edge);
}
svg {
  display: block;
  font-family: inherit;
  font-variant-numeric: tabular-nums;
}
text {
  font-size: 15px;
  fill: var(--scribe);
}
.cap {
  font-size: 14px;
  text-anchor: middle;
}
.cap.right,
.figure {
  text-anchor: end;
}
.key text {
  font-size: 14px;
}
.lot {
  paint-order: stroke;
  stroke: var(--layout-blue);
  stroke-width: 5px;
  font-size: 15px;
  font-weight: 600;
  fill: #fff;
}
.rule {
  stroke: var(--scribe);
  stroke-opacity: 0.35;
}
.window {
  fill: var(--good-on-blue);
  opacity: 0.28;
}
.aim {
  stroke: #fff;
  stroke-width: 1.4;
  stroke-dasharray: 5 4;
}
.end {
  stroke: var(--accent-on-blue);
  stroke-width: 2.5;
}
.bottom {
  stroke: var(--scribe);
  stroke-width: 3;
}
.intake {
  --hue: #63c3d2;
}
.exhaust {
  --hue: #e9a64c;
}
.token {
  fill: none;
  stroke: var(--hue);
  stroke-width: 2;
}
.inferred .token {
  stroke-dasharray: 3 3;
}
.name {
  text-anchor: middle;
  font-size: 12.5px;
  font-weight: 600;
  fill: #fff;
}
.whisker {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.3;
}
.cold {
  fill: #fff;
  stroke: #0b1a2c;
}
.hot {
  fill: none;
  stroke: var(--accent-on-blue);
  stroke-width: 2.4;
}
.move {
  fill: none;
  stroke: var(--accent-on-blue);
  stroke-width: 1.4;
  stroke-dasharray: 3 3;
}
.limit .figure {
  fill: var(--accent-on-blue);
  font-weight: 600;
}
.outside .cold {
  fill: var(--alarm-on-blue);
}
.outside .figure {
  fill: var(--alarm-on-blue);
  font-weight: 600;
}
</style>
