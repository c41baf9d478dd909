<script setup lang="ts">
/**
 * The heads in plan, front to the left. Every valve is a small upright ladder at one scale: the
 * line across it is the valve's own rod, the band is where the valve wants it. Without a chosen
 * rod the line is the middle of the zero-lash lengths of its kind. Nothing here decides.
 */
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import type { Heads, HeadValve } from '../api/client'
import { small, type Unit } from '../kit/format'
import { MARKS, WORDS } from '../kit/states'

const props = defineProps<{
  unit: Unit
  map: Heads
  lifter: { low: number; high: number; travel: number }
  selected: string | null
  /** Valves of the sampling plan; the others step back. */
  wanted: string[]
}>()
const emit = defineEmits<{ select: [name: string]; measure: [id: string] }>()

const CELL = 72
const GAP = 18
/** One head has the page's height to itself. */
const ladder = computed(() => (props.map.heads.length > 1 ? 132 : 250))
const height = computed(() => ladder.value + 74)

const middle = computed(() => {
  const found: Record<string, number | null> = {}
  for (const kind of ['intake', 'exhaust'] as const) {
    const own = props.map.heads
      .flatMap((h) => h.valves)
      .flatMap((v) => (v.kind === kind && v.estimate_in !== null ? [v.estimate_in] : []))
      .sort((a, b) => a - b)
    found[kind] = own.length ? (own[Math.floor(own.length / 2)] ?? null) : null
  }
  return found
})
/** Where the line across the head stands, inches above zero lash of a middling valve. */
const line = (v: HeadValve) => v.rod_in ?? middle.value[v.kind] ?? null
const hasRod = (v: HeadValve) => v.rod_in !== null

const reach = computed(() => {
  const { low, high, travel } = props.lifter
  const off = props.map.heads
    .flatMap((h) => h.valves)
    .flatMap((v) => {
      const at = line(v)
      return at === null || v.estimate_in === null ? [] : [Math.abs(v.estimate_in - at)]
    })
  return Math.min(Math.max(...off, travel - low, high, 0.04) + 0.012, 0.32)
})
const perInch = computed(() => ladder.value / 2 / reach.value)
const y = (v: HeadValve, inches: number) =>
  Math.min(
    Math.max(ladder.value / 2 - (inches - (line(v) ?? inches)) * perInch.value, -2),
    ladder.value + 2,
  )

const rows = computed(() =>
  props.map.heads.map((head) => {
    let left = 0
    const cells = head.valves.map((valve, i) => {
      if (i > 0) left += CELL + (i % 2 === 0 ? GAP : 4)
      return { valve, left }
    })
    return { bank: head.bank, cells, width: left + CELL }
  }),
)
const widest = computed(() => Math.max(...rows.value.map((r) => r.width)))

/** On a narrow screen the head is scrolled until the selected valve is in view. */
const frame = useTemplateRef<HTMLElement>('frame')
function show() {
  const valve = frame.value?.querySelector('.selected')
  const head = valve?.closest('figure')
  if (!valve || !head) return
  const [box, seen] = [valve.getBoundingClientRect(), head.getBoundingClientRect()]
  if (box.left < seen.left) head.scrollLeft -= seen.left - box.left
  if (box.right > seen.right) head.scrollLeft += box.right - seen.right
}
watch(() => props.selected, show, { flush: 'post' })
onMounted(show)

function words(v: HeadValve): string {
  const preload = v.preload_in === null ? '' : `, preload ${small(v.preload_in, props.unit)}`
  return `Cylinder ${v.cylinder} ${v.kind}: ${WORDS[v.state]}${preload}`
}
</script>

<template>
  <div ref="frame" class="heads">
    <figure v-for="row in rows" :key="row.bank">
      <figcaption>
        <b>{{ row.bank }}</b><span>seen from above, front ← → rear</span>
      </figcaption>
      <svg
        :viewBox="`-14 -10 ${widest + 28} ${height + 14}`"
        role="group"
        :aria-label="row.bank"
        :style="{ maxWidth: `${(widest + 28) * 1.25}px` }"
      >
        <rect class="head" x="-14" y="-10" :width="row.width + 28" :height="height + 14" rx="10" />
        <g
          v-for="{ valve, left } in row.cells"
          :key="valve.id"
          :transform="`translate(${left} 0)`"
          class="cell"
          :class="[
            valve.kind,
            valve.state,
            { selected: valve.name === selected, dim: !wanted.includes(valve.name) },
          ]"
          role="button"
          :aria-label="words(valve)"
          :aria-pressed="valve.name === selected"
          @click="emit('select', valve.name)"
          @dblclick="emit('measure', valve.id)"
        >
          <rect class="touch" :width="CELL" :height="height" />
          <rect
            v-if="valve.name === selected"
            class="ring"
            x="-1"
            y="-5"
            :width="CELL + 2"
            :height="height + 4"
            rx="5"
          />
          <g class="ladder">
            <rect class="slot" x="22" :width="CELL - 44" :height="ladder" />
            <template v-if="valve.estimate_in !== null">
              <path
                class="travel"
                :d="`M${CELL / 2} ${y(valve, valve.estimate_in)} V${y(valve, valve.estimate_in + lifter.travel)} m-6 0 h12`"
              />
              <rect
                class="window"
                x="22"
                :width="CELL - 44"
                :y="y(valve, valve.estimate_in + lifter.high)"
                :height="
                  y(valve, valve.estimate_in + lifter.low) -
                  y(valve, valve.estimate_in + lifter.high)
                "
              />
              <line
                class="zero"
                x1="18"
                :x2="CELL - 18"
                :y1="y(valve, valve.estimate_in)"
                :y2="y(valve, valve.estimate_in)"
              />
            </template>
            <template v-else>
              <path
                v-if="valve.low_in !== null && line(valve) !== null"
                class="peg"
                :d="`M28 ${y(valve, valve.low_in) + 6} h16 l-8 -8 Z`"
              />
              <path
                v-if="valve.high_in !== null && line(valve) !== null"
                class="peg"
                :d="`M28 ${y(valve, valve.high_in) - 6} h16 l-8 8 Z`"
              />
            </template>
            <line
              v-if="line(valve) !== null && (hasRod(valve) || valve.estimate_in !== null)"
              class="rod"
              :class="{ chosen: hasRod(valve) }"
              x1="6"
              :x2="CELL - 6"
              :y1="ladder / 2"
              :y2="ladder / 2"
            />
          </g>
          <g :transform="`translate(${CELL / 2} ${ladder + 26})`">
            <circle v-if="valve.kind === 'intake'" class="token" r="19" />
            <rect v-else class="token" x="-18" y="-18" width="36" height="36" rx="3" />
            <text class="name" y="6">{{ valve.name }}</text>
            <g v-if="MARKS[valve.state]" transform="translate(21 -16)" class="mark">
              <path v-if="valve.state === 'suspicious'" d="M0 -12 L12 9 H-12 Z" />
              <path v-else-if="valve.state === 'odd'" d="M0 -11 L11 0 L0 11 L-11 0 Z" />
              <rect v-else-if="valve.state === 'outside'" x="-9" y="-9" width="18" height="18" />
              <circle v-else r="9.5" />
              <text y="5">{{ valve.state === 'odd' ? '' : MARKS[valve.state] }}</text>
            </g>
          </g>
          <text class="preload" :x="CELL / 2" :y="ladder + 64">
            {{ valve.preload_in === null ? '' : small(valve.preload_in, unit) }}
          </text>
        </g>
      </svg>
    </figure>
  </div>
</template>

<style scoped>
.heads {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
figure {
  margin: 0;
  overflow-x: auto;
}
figcaption {
  display: flex;
  gap: 14px;
  align-items: baseline;
  margin-bottom: 2px;
}
figcaption b::first-letter {
  text-transform: uppercase;
}
figcaption span {
  font-size: 14px;
  color: var(--quiet);
}
svg {
  display: block;
  width: 100%;
  min-width: 560px;
  user-select: none;
}
.head {
  fill: var(--layout-blue);
  stroke: var(--layout-edge);
}
.cell {
  cursor: pointer;
}
.touch {
  fill: transparent;
}
.ring {
  fill: none;
  stroke: var(--accent-on-blue);
  stroke-width: 3;
}
.slot {
  fill: #0c2340;
  stroke: var(--scribe);
  stroke-opacity: 0.3;
}
.window {
  fill: var(--good-on-blue);
  opacity: 0.5;
}
.outside .window {
  fill: var(--alarm-on-blue);
}
.suspicious .window {
  fill: var(--accent-on-blue);
}
.travel {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.2;
}
.zero {
  stroke: var(--accent-on-blue);
  stroke-width: 3;
}
.rod {
  stroke: #fff;
  stroke-width: 1.5;
  stroke-dasharray: 3 3;
}
.rod.chosen {
  stroke-width: 3;
  stroke-dasharray: none;
}
.peg {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 1.5;
}
.token {
  fill: #f7f4ec;
  stroke: var(--hue);
  stroke-width: 3;
}
.intake {
  --hue: #63c3d2;
}
.exhaust {
  --hue: #e9a64c;
}
.waiting .token {
  fill: none;
  stroke-dasharray: 4 3;
}
.waiting .name {
  fill: var(--scribe);
}
.name,
.mark text,
.preload {
  text-anchor: middle;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.name {
  font-size: 17px;
  fill: #0b1a2c;
}
.mark circle,
.mark path,
.mark rect {
  fill: #fff;
  stroke: #0b1a2c;
  stroke-width: 1.2;
}
.mark text {
  font-size: 14px;
  fill: #0b1a2c;
}
.fits .mark circle {
  fill: var(--good-on-blue);
}
.outside .mark rect {
  fill: var(--alarm-on-blue);
}
.suspicious .mark path,
.odd .mark path {
  fill: var(--accent-on-blue);
}
.preload {
  font-size: 13px;
  font-weight: 400;
  fill: var(--scribe);
}
.dim {
  opacity: 0.45;
}
</style>
