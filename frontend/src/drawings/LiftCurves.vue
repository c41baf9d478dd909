<script setup lang="ts">
/** Contact, ratio and arm angle over the valve lift, one cursor through all three. */
import { decimal, t } from '../kit/words'
import { computed } from 'vue'
import { bareSmall, small, type Unit, degrees } from '../kit/format'

export interface Curve {
  valve: number[]
  contact: number[]
  ratio: number[]
  arm: number[]
}

const props = defineProps<{
  unit: Unit
  curve: Curve
  other?: Curve | null
  now: { valve: number; contact: number; ratio: number; arm: number }
  half: number
}>()
const emit = defineEmits<{ valve: [inches: number] }>()

const WIDTH = 340
const LEFT = 62
const ROW = 62
const rows = [
  { key: 'contact', name: t('contact') },
  { key: 'ratio', name: t('ratio') },
  { key: 'arm', name: t('rocker') },
] as const
const most = computed(() => Math.max(...props.curve.valve, ...(props.other?.valve ?? []), 0.01))
const x = (valve: number) => LEFT + (valve / most.value) * (WIDTH - LEFT - 8)

const charts = computed(() =>
  rows.map((row, i) => {
    const values = [...props.curve[row.key], ...(props.other?.[row.key] ?? [])]
    const low = Math.min(...values)
    const high = Math.max(...values)
    const least = { contact: 0.02, ratio: 0.05, arm: 2 }[row.key]
    const pad = Math.max((least - (high - low)) / 2, 0)
    const bottom = low - pad
    const span = high + pad - bottom
    const top = i * ROW + 10
    const y = (v: number) => top + (ROW - 20) * (1 - (v - bottom) / span)
    const path = (c: Curve) =>
      c.valve
        .map((v, k) => `${k ? 'L' : 'M'}${x(v).toFixed(1)} ${y(c[row.key][k] ?? 0).toFixed(1)}`)
        .join('')
    return {
      ...row,
      top,
      zero: bottom < 0 && bottom + span > 0 ? y(0) : null,
      path: path(props.curve),
      ghost: props.other ? path(props.other) : null,
      y,
    }
  }),
)
function written(key: (typeof rows)[number]['key']): string {
  if (key === 'contact') return bareSmall(props.now.contact, props.unit)
  return key === 'ratio' ? decimal(props.now.ratio.toFixed(3)) : degrees(props.now.arm)
}
function follow(event: PointerEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const at = ((event.clientX - box.left) / box.width) * WIDTH
  emit('valve', Math.min(Math.max(((at - LEFT) / (WIDTH - LEFT - 8)) * most.value, 0), most.value))
}
function hold(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  follow(event)
}
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${3 * ROW + 18}`"
    class="curves"
    role="img"
    :aria-label="t('Contact, ratio and arm angle over valve lift')"
    @pointerdown="hold"
    @pointermove="$event.buttons && follow($event)"
  >
    <line class="half" :x1="x(half)" :x2="x(half)" y1="0" :y2="3 * ROW" />
    <g v-for="c in charts" :key="c.key">
      <line class="base" :x1="LEFT" :x2="WIDTH - 8" :y1="c.top + ROW - 14" :y2="c.top + ROW - 14" />
      <line
        v-if="c.zero !== null"
        class="zero"
        :x1="LEFT"
        :x2="WIDTH - 8"
        :y1="c.zero"
        :y2="c.zero"
      />
      <path v-if="c.ghost" class="ghost" :d="c.ghost" />
      <path class="curve" :d="c.path" />
      <text class="name" x="0" :y="c.top + 12">{{ c.name }}</text>
      <text class="value" x="0" :y="c.top + 31">{{ written(c.key) }}</text>
      <circle class="dot" :cx="x(now.valve)" :cy="c.y(now[c.key])" r="4" />
    </g>
    <line class="cursor" :x1="x(now.valve)" :x2="x(now.valve)" y1="0" :y2="3 * ROW" />
    <text class="name" :x="x(half)" :y="3 * ROW + 13" text-anchor="middle">{{ t('half') }}</text>
    <text class="name" :x="WIDTH - 8" :y="3 * ROW + 13" text-anchor="end">
      {{ small(most, unit) }}
    </text>
    <text class="name" :x="LEFT" :y="3 * ROW + 13">{{ t('closed') }}</text>
  </svg>
</template>

<style scoped>
.curves {
  display: block;
  width: 100%;
  touch-action: none;
  cursor: ew-resize;
}
.base {
  stroke: var(--rule);
}
.zero {
  stroke: var(--quiet);
  stroke-dasharray: 2 4;
}
.half {
  stroke: var(--quiet);
  stroke-dasharray: 5 4;
}
.curve {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2.5;
}
.ghost {
  fill: none;
  stroke: var(--intake);
  stroke-width: 2;
  stroke-dasharray: 4 4;
}
.cursor {
  stroke: var(--ink);
  stroke-width: 1.5;
}
.dot {
  fill: var(--ink);
}
.name {
  font-size: 13px;
  fill: var(--quiet);
}
.value {
  font-size: 17px;
  font-weight: 600;
  fill: var(--ink);
  font-variant-numeric: tabular-nums;
}
</style>
