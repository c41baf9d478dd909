<script setup lang="ts">
/**
 * Who and what reads long or short, on one true scale: the offset as a peg with its limits, and
 * how far the same hand scatters as a band around it.
 */
import { t } from '../kit/words'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { GaugeOwn } from '../api/client'
import { bareSmall, small, type Unit } from '../kit/format'

const props = defineProps<{
  unit: Unit
  groups: { words: string; rows: GaugeOwn[] }[]
}>()

const frame = useTemplateRef<HTMLElement>('frame')
const { width: seen } = useElementSize(frame)
const width = computed(() => Math.max(320, seen.value))
const name = computed(() => (width.value < 620 ? 120 : 230))
const ROW = 30
const HEAD = 26
const TOP = 30

const rows = computed(() => {
  let y = TOP
  return props.groups.flatMap((group) => {
    const head = { y: y + 18, words: group.words }
    y += HEAD
    return group.rows.map((own, i) => {
      const at = y + ROW / 2
      y += ROW
      return { own, y: at, head: i === 0 ? head : null }
    })
  })
})
const height = computed(() => (rows.value.at(-1)?.y ?? TOP) + ROW / 2 + 8)
const reach = computed(() => {
  const ends = rows.value.map(
    ({ own }) =>
      Math.abs(own.offset_in ?? 0) + Math.max(2 * (own.offset_u_in ?? 0), own.repeat_in ?? 0),
  )
  return Math.max(0.002, ...ends) * 1.1
})
const x = (inches: number) =>
  name.value + ((inches + reach.value) / (2 * reach.value)) * (width.value - name.value - 12)
const ticks = computed(() => {
  const step = reach.value > 0.008 ? 0.004 : reach.value > 0.003 ? 0.002 : 0.001
  const count = Math.floor(reach.value / step)
  return Array.from({ length: 2 * count + 1 }, (_, i) => (i - count) * step)
})
const words = (own: GaugeOwn) =>
  `${own.name}: ${own.offset_in === null ? t('not told') : small(own.offset_in, props.unit)}` +
  (own.repeat_in === null
    ? ''
    : t(', repeats within {repeat}', { repeat: small(own.repeat_in, props.unit) }))
</script>

<template>
  <div ref="frame" class="plate">
    <svg
      :width="width"
      :height="height"
      :viewBox="`0 0 ${width} ${height}`"
      role="img"
      :aria-label="
        t('Reads longer or shorter than the others: {a}', {
          a: rows.map((r) => words(r.own)).join('; '),
        })
      "
    >
      <text class="name" x="4" y="18">{{ unit === 'in' ? t('thou longer') : t('mm longer') }}</text>
      <g v-for="at in ticks" :key="at">
        <line class="grid" :x1="x(at)" :x2="x(at)" :y1="TOP - 6" :y2="height" />
        <text class="cap" :x="x(at)" y="18">{{ bareSmall(at, unit) }}</text>
      </g>
      <line class="middle" :x1="x(0)" :x2="x(0)" :y1="TOP - 6" :y2="height" />
      <g v-for="row in rows" :key="row.own.name + row.y">
        <text v-if="row.head" class="head" x="4" :y="row.head.y">{{ row.head.words }}</text>
        <text class="name" x="4" :y="row.y + 5">{{ row.own.name.slice(0, name / 8) }}</text>
        <rect
          v-if="row.own.repeat_in !== null"
          class="repeat"
          :x="x((row.own.offset_in ?? 0) - row.own.repeat_in)"
          :width="x(row.own.repeat_in) - x(-row.own.repeat_in)"
          :y="row.y - 8"
          height="16"
        />
        <g v-if="row.own.offset_in !== null && row.own.offset_u_in !== null">
          <line
            class="limits"
            :x1="x(row.own.offset_in - 2 * row.own.offset_u_in)"
            :x2="x(row.own.offset_in + 2 * row.own.offset_u_in)"
            :y1="row.y"
            :y2="row.y"
          />
          <circle class="peg" :cx="x(row.own.offset_in)" :cy="row.y" r="6" data-part="offset" />
        </g>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.plate {
  padding: 6px 8px;
  background: var(--layout-blue);
  border: 1px solid var(--layout-edge);
}
svg {
  display: block;
  max-width: 100%;
}
.grid {
  stroke: var(--layout-edge);
}
.middle {
  stroke: var(--scribe);
  stroke-width: 2;
}
.cap,
.name,
.head {
  font-size: 14px;
  fill: var(--scribe);
}
.cap {
  text-anchor: middle;
}
.head {
  font-weight: 600;
}
.repeat {
  fill: var(--scribe);
  opacity: 0.3;
}
.limits {
  stroke: var(--accent-on-blue);
  stroke-width: 3;
}
.peg {
  fill: var(--accent-on-blue);
}
</style>
