<script setup lang="ts">
/** The tries: what was set, expected and seen, and how the fulcrum's height became known. */
import { decimal, t } from '../../kit/words'
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
  off_inboard: t('off the inboard edge'),
  inboard: t('inboard'),
  centred: t('centred'),
  outboard: t('outboard'),
  off_outboard: t('off the outboard edge'),
}
const span = (low: number | null, high: number | null) =>
  low === null || high === null
    ? ''
    : t('{low} to {high}', { low: bareSmall(low, unit.value), high: small(high, unit.value) })
function seen(m: Mark): string {
  const u = unit.value
  const parts = [
    m.at_rest ? t('at rest') : '',
    m.place ? t('{PLACES}, by eye', { PLACES: PLACES[m.place] }) : '',
    m.wide ? t('{wide}, by eye', { wide: m.wide }) : '',
    span(m.inboard_in, m.outboard_in),
    m.off ? t('off the {off} edge', { off: m.off }) : '',
    m.width_in === null ? '' : t('{width} wide', { width: small(m.width_in, unit.value) }),
    m.closed_end
      ? t('closed end {closed_end}', {
          closed_end: m.closed_end === 'inboard' ? t('inboard') : t('outboard'),
        })
      : '',
    m.angle_deg === null ? '' : `${m.angle_deg}°`,
    m.lift_in === null ? '' : t('lift {lift}', { lift: small(m.lift_in, unit.value) }),
    m.across_in == null ? '' : t('{across} sideways', { across: small(m.across_in, u) }),
    m.sink_in == null ? '' : t('plunger sinks {sink}', { sink: small(m.sink_in, u) }),
    m.screw == null ? '' : t('screw {screw} turns', { screw: turnsWords(m.screw) }),
    m.lost_in === null ? '' : t('springs take {lost}', { lost: small(m.lost_in, unit.value) }),
    m.ratios.length
      ? t('ratio {a}', { a: decimal(m.ratios[m.ratios.length - 1]?.ratio.toFixed(3) ?? '') })
      : '',
  ]
  return parts.filter(Boolean).join(', ')
}
function expected(m: Mark): string {
  const p = m.predicted
  if (!p) return ''
  const parts = [
    m.inboard_in === null ? '' : span(p.inboard_in, p.outboard_in),
    m.angle_deg === null ? '' : degrees(p.angle_deg),
    m.lift_in === null ? '' : t('lift {lift}', { lift: small(p.lift_in, unit.value) }),
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
  <p v-if="!arm.marks.length" class="quiet">{{ t('No try yet.') }}</p>
  <ol v-else>
    <li v-for="m in [...arm.marks].reverse()" :key="m.id" :class="{ struck: m.struck }">
      <b class="number">{{ m.number }}</b>
      <div class="what">
        <p>
          <b>{{
            arm.stud
              ? length(m.setting_in, unit)
              : t('shim {setting}', { setting: small(m.setting_in, unit) })
          }}</b>
          <span class="seen">{{ seen(m) }}</span>
        </p>
        <p v-if="expected(m)" class="quiet">
          {{ t('expected {m}', { m: expected(m) }) }}
          <b v-if="surprised(m)" class="odd">{{ t('not as expected: look again') }}</b>
        </p>
        <p class="quiet">
          {{ when(m.at) }}<template v-if="m.by">, {{ m.by }}</template>
          <template v-if="m.photo">{{ t(', from a photo') }}</template>
          <template v-if="m.struck_reason">{{
            t(', struck: {struck_reason}', { struck_reason: m.struck_reason })
          }}</template>
        </p>
      </div>
      <svg
        v-if="m.error_in !== null && m.error_u_in !== null"
        viewBox="0 0 100 34"
        role="img"
        :aria-label="
          t('Fulcrum off by {error} ± {a}', {
            error: small(m.error_in, unit),
            a: small(2 * m.error_u_in, unit),
          })
        "
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
        :aria-label="t('Count try {number} again', { number: m.number })"
        :title="t('Count it again')"
        @click="emit('restore', m)"
      >
        ↶
      </button>
      <button
        v-else-if="!m.struck"
        type="button"
        class="plain"
        :aria-label="t('Strike out try {number}', { number: m.number })"
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
