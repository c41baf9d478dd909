<script setup lang="ts" generic="V extends { name: string; kind: 'intake' | 'exhaust' }">
/**
 * The heads in plan, front to the left: a token for each valve, round for intake and square for
 * exhaust, with the mark of how it stands. What else belongs to a valve is drawn above its token.
 */
import { t } from '../kit/words'
import { computed, onMounted, useTemplateRef, watch } from 'vue'

export interface Look {
  /** How the valve stands, as a class and in words. */
  state: string
  words: string
  mark: string
  shape: 'circle' | 'square' | 'triangle' | 'diamond'
  dim: boolean
}

const props = defineProps<{
  heads: { bank: string; valves: V[] }[]
  selected: string | null
  look: (valve: V) => Look
  /** Width of a valve's cell, height of the head, and where the token's middle stands. */
  cell: number
  height: number
  tokenAt: number
  /** Gap between cylinders; captions above the heads. */
  gap: number
  captions?: boolean
  /** Narrower than this the head scrolls, in pixels. */
  narrowest: number
}>()
const emit = defineEmits<{ select: [valve: V]; open: [valve: V] }>()

const rows = computed(() =>
  props.heads.map((head) => {
    let left = 0
    const cells = head.valves.map((valve, i) => {
      if (i > 0) left += props.cell + (i % 2 === 0 ? props.gap : 4)
      return { valve, left, look: props.look(valve) }
    })
    return { bank: head.bank, cells, width: left + props.cell }
  }),
)
const widest = computed(() => Math.max(...rows.value.map((r) => r.width)))
const margin = computed(() => props.gap * 0.75)

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
</script>

<template>
  <div ref="frame" class="heads">
    <figure v-for="row in rows" :key="row.bank">
      <figcaption v-if="captions">
        <b>{{ row.bank }}</b><span>{{ t('seen from above, front ← → rear') }}</span>
      </figcaption>
      <svg
        :viewBox="`${-margin} -10 ${widest + 2 * margin} ${height + 14}`"
        role="group"
        :aria-label="row.bank"
        :style="{
          maxWidth: `${(widest + 2 * margin) * 1.25}px`,
          minWidth: `${narrowest}px`,
        }"
      >
        <rect
          class="head"
          :x="-margin"
          y="-10"
          :width="row.width + 2 * margin"
          :height="height + 14"
          rx="10"
        />
        <g
          v-for="{ valve, left, look: seen } in row.cells"
          :key="valve.name"
          :transform="`translate(${left} 0)`"
          class="cell"
          :class="[valve.kind, seen.state, { selected: valve.name === selected, dim: seen.dim }]"
        >
          <rect
            v-if="valve.name === selected"
            class="ring"
            x="-1"
            y="-5"
            :width="cell + 2"
            :height="height + 4"
            rx="5"
          />
          <slot :valve="valve" />
          <g :transform="`translate(${cell / 2} ${tokenAt})`">
            <circle v-if="valve.kind === 'intake'" class="token" r="19" />
            <rect v-else class="token" x="-18" y="-18" width="36" height="36" rx="3" />
            <text class="name" y="6">{{ valve.name }}</text>
            <g v-if="seen.mark" transform="translate(21 -16)" class="mark">
              <path v-if="seen.shape === 'triangle'" d="M0 -12 L12 9 H-12 Z" />
              <path v-else-if="seen.shape === 'diamond'" d="M0 -11 L11 0 L0 11 L-11 0 Z" />
              <rect v-else-if="seen.shape === 'square'" x="-9" y="-9" width="18" height="18" />
              <circle v-else r="9.5" />
              <text y="5">{{ seen.shape === 'diamond' ? '' : seen.mark }}</text>
            </g>
          </g>
          <rect
            class="touch"
            :width="cell"
            :height="height"
            role="button"
            :aria-label="seen.words"
            :aria-pressed="valve.name === selected"
            @click="emit('select', valve)"
            @dblclick="emit('open', valve)"
          />
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
.waiting .token,
.open .token {
  fill: none;
  stroke-dasharray: 4 3;
}
.waiting .name,
.open .name {
  fill: var(--scribe);
}
.name,
.mark text {
  text-anchor: middle;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.name {
  font-size: 17px;
  fill: #0b1a2c;
}
.mark > * {
  fill: #fff;
  stroke: #0b1a2c;
  stroke-width: 1.2;
}
.mark text {
  font-size: 14px;
  fill: #0b1a2c;
  stroke: none;
}
.fits .mark circle,
.passed .mark circle {
  fill: var(--good-on-blue);
}
.outside .mark rect,
.failed .mark rect {
  fill: var(--alarm-on-blue);
}
.suspicious .mark path,
.odd .mark path {
  fill: var(--accent-on-blue);
}
.dim {
  opacity: 0.75;
}
</style>
