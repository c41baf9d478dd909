<script setup lang="ts">
/** The tries: what was set, expected and seen, and how the fulcrum's height became known. */
import { computed } from 'vue'
import type { Rocker, Mark } from '../../api/client'
import { bareSmall, length, small, turnsWords, when, within, degrees } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

const props = defineProps<{ arm: Rocker }>()
const emit = defineEmits<{ strike: [mark: Mark]; restore: [mark: Mark] }>()
const { unit } = usePrefs()

const most = computed(() =>
  Math.max(
    0.02,
    ...props.arm.marks.map((m) => Math.abs(m.error_in ?? 0) + 2 * (m.error_u_in ?? 0)),
  ),
)
const place = (inches: number) => 50 + (inches / most.value) * 48

const PLACES: Record<NonNullable<Mark['place']>, string> = {
  off_inboard: 'off the inboard edge',
  inboard: 'inboard',
  centred: 'centred',
  outboard: 'outboard',
  off_outboard: 'off the outboard edge',
}
const span = (low: number | null, high: number | null) =>
  low === null || high === null ? '' : `${bareSmall(low, unit.value)} to ${small(high, unit.value)}`
function seen(m: Mark): string {
  const u = unit.value
  const parts = [
    m.at_rest ? 'at rest' : '',
    m.place ? `${PLACES[m.place]}, by eye` : '',
    m.wide ? `${m.wide}, by eye` : '',
    span(m.inboard_in, m.outboard_in),
    m.off ? `off the ${m.off} edge` : '',
    m.width_in === null ? '' : `${small(m.width_in, unit.value)} wide`,
    m.closed_end ? `closed end ${m.closed_end}` : '',
    m.angle_deg === null ? '' : `${m.angle_deg}°`,
    m.lift_in === null ? '' : `lift ${small(m.lift_in, unit.value)}`,
    m.across_in == null ? '' : `${small(m.across_in, u)} sideways`,
    m.sink_in == null ? '' : `plunger sinks ${small(m.sink_in, u)}`,
    m.screw == null ? '' : `screw ${turnsWords(m.screw)} turns`,
    m.lost_in === null ? '' : `springs take ${small(m.lost_in, unit.value)}`,
    m.ratios.length ? `ratio ${m.ratios[m.ratios.length - 1]?.ratio.toFixed(3)}` : '',
  ]
  return parts.filter(Boolean).join(', ')
}
function expected(m: Mark): string {
  const p = m.predicted
  if (!p) return ''
  const parts = [
    m.inboard_in === null ? '' : span(p.inboard_in, p.outboard_in),
    m.angle_deg === null ? '' : degrees(p.angle_deg),
    m.lift_in === null ? '' : `lift ${small(p.lift_in, unit.value)}`,
  ]
  return parts.filter(Boolean).join(', ')
}
/** Whether what was seen lies outside what was expected, 2 sigma and the reading's own. */
function surprised(m: Mark): boolean {
  const p = m.predicted
  if (!p) return false
  const off = (a: number | null, b: number, u: number, own: number) =>
    a !== null && Math.abs(a - b) > 2 * Math.hypot(u, own)
  return (
    off(m.inboard_in, p.inboard_in, p.inboard_u_in, 0.003) ||
    off(m.outboard_in, p.outboard_in, p.outboard_u_in, 0.003) ||
    off(m.angle_deg, p.angle_deg, p.angle_u_deg, 0.25) ||
    off(m.lift_in, p.lift_in, p.lift_u_in, 0.002)
  )
}
</script>

<template>
  <p v-if="!arm.marks.length" class="quiet">No try yet.</p>
  <ol v-else>
    <li v-for="m in [...arm.marks].reverse()" :key="m.id" :class="{ struck: m.struck }">
      <b class="number">{{ m.number }}</b>
      <div class="what">
        <p>
          <b>{{ arm.stud ? length(m.setting_in, unit) : `shim ${small(m.setting_in, unit)}` }}</b>
          <span class="seen">{{ seen(m) }}</span>
        </p>
        <p v-if="expected(m)" class="quiet">
          expected {{ expected(m) }}
          <b v-if="surprised(m)" class="odd">not as expected: look again</b>
        </p>
        <p class="quiet">
          {{ when(m.at) }}<template v-if="m.by">, {{ m.by }}</template>
          <template v-if="m.photo">, from a photo</template>
          <template v-if="m.struck_reason">, struck: {{ m.struck_reason }}</template>
        </p>
      </div>
      <svg
        v-if="m.error_in !== null && m.error_u_in !== null"
        viewBox="0 0 100 34"
        role="img"
        :aria-label="`Fulcrum off by ${small(m.error_in, unit)} ± ${small(2 * m.error_u_in, unit)}`"
      >
        <line class="zero" x1="50" x2="50" y1="2" y2="22" />
        <line
          class="spread"
          :x1="place(m.error_in - 2 * m.error_u_in)"
          :x2="place(m.error_in + 2 * m.error_u_in)"
          y1="12"
          y2="12"
        />
        <circle :cx="place(m.error_in)" cy="12" r="4" />
        <text x="50" y="33">{{ within(2 * m.error_u_in, unit) }}</text>
      </svg>
      <span v-else />
      <button
        v-if="m.restorable"
        type="button"
        class="plain"
        :aria-label="`Count try ${m.number} again`"
        title="Count it again"
        @click="emit('restore', m)"
      >
        ↶
      </button>
      <button
        v-else-if="!m.struck"
        type="button"
        class="plain"
        :aria-label="`Strike out try ${m.number}`"
        @click="emit('strike', m)"
      >
        ✕
      </button>
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 26px 1fr 104px 44px;
  gap: 8px;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--rule);
}
.struck .what p:first-child {
  text-decoration: line-through;
  color: var(--quiet);
}
.number {
  font-size: 20px;
  text-align: center;
}
p {
  margin: 0;
  line-height: 1.25;
  font-variant-numeric: tabular-nums;
}
.seen {
  margin-left: 8px;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
.odd {
  color: var(--alarm-ink);
}
.zero {
  stroke: var(--good);
  stroke-width: 1.5;
}
.spread {
  stroke: var(--accent);
  stroke-width: 4;
}
circle {
  fill: var(--ink);
}
text {
  font-size: 12px;
  text-anchor: middle;
  fill: var(--quiet);
}
</style>
