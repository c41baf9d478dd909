<script setup lang="ts">
/**
 * The mark on a photo: lay the circle on the tip and the lines on the mark's edges. The program's
 * first guess is there to be put right; the tip's diameter gives the scale.
 */
import { t } from '../../kit/words'
import { computed, ref } from 'vue'
import type { Overlay, Photo, Problem } from '../../api/client'
import { small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'

const props = defineProps<{
  buildId: string
  photo: Photo
  stem: number
  problem: Problem | null
}>()
const emit = defineEmits<{ keep: [overlay: Overlay]; close: [] }>()
const { unit } = usePrefs()

function start(): Overlay {
  const { width, height, overlay } = props.photo
  const radius = Math.min(width, height) * 0.3
  return (
    overlay ?? {
      x: width / 2,
      y: height / 2,
      radius,
      axis_deg: 0,
      inboard: -radius * 0.15,
      outboard: radius * 0.15,
    }
  )
}
const overlay = ref<Overlay>(start())
const drawn = ref<SVGSVGElement | null>(null)

const way = computed(() => {
  const a = (overlay.value.axis_deg * Math.PI) / 180
  return { x: Math.cos(a), y: Math.sin(a) }
})
const at = (along: number, across = 0) => ({
  x: overlay.value.x + along * way.value.x - across * way.value.y,
  y: overlay.value.y + along * way.value.y + across * way.value.x,
})
function chord(along: number): string {
  const half = Math.sqrt(Math.max(overlay.value.radius ** 2 - along ** 2, 0)) * 1.12
  const a = at(along, -half)
  const b = at(along, half)
  return `M${a.x} ${a.y} L${b.x} ${b.y}`
}
/** One screen pixel in photo pixels, so that handles keep their size. */
const grain = computed(() => Math.max(props.photo.width, props.photo.height) / 640)

type Part = 'move' | 'radius' | 'inboard' | 'outboard' | 'turn'
const handles = computed(() => {
  const o = overlay.value
  return [
    { part: 'move' as const, words: t('Circle'), ...at(0) },
    { part: 'radius' as const, words: t('Circle’s size'), ...at(0, o.radius) },
    { part: 'turn' as const, words: t('Direction outboard'), ...at(o.radius * 1.25) },
    { part: 'inboard' as const, words: t('Inboard edge'), ...at(o.inboard, -o.radius * 0.55) },
    { part: 'outboard' as const, words: t('Outboard edge'), ...at(o.outboard, o.radius * 0.55) },
  ]
})

function point(event: PointerEvent) {
  const box = drawn.value?.getBoundingClientRect()
  if (!box) return { x: 0, y: 0 }
  return {
    x: ((event.clientX - box.left) / box.width) * props.photo.width,
    y: ((event.clientY - box.top) / box.height) * props.photo.height,
  }
}
const held = ref<Part | null>(null)
function hold(part: Part, event: PointerEvent) {
  held.value = part
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  if (!held.value) return
  const p = point(event)
  const o = overlay.value
  const dx = p.x - o.x
  const dy = p.y - o.y
  const along = dx * way.value.x + dy * way.value.y
  if (held.value === 'move') overlay.value = { ...o, x: p.x, y: p.y }
  else if (held.value === 'radius') {
    const radius = Math.max(Math.hypot(dx, dy), 8)
    const grown = radius / o.radius
    overlay.value = { ...o, radius, inboard: o.inboard * grown, outboard: o.outboard * grown }
  } else if (held.value === 'turn')
    overlay.value = { ...o, axis_deg: (Math.atan2(dy, dx) * 180) / Math.PI }
  else overlay.value = { ...o, [held.value]: along }
}
const STEPS: Record<string, [number, number]> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowDown: [0, 1],
  ArrowUp: [0, -1],
}
function nudge(part: Part, event: KeyboardEvent) {
  const step = STEPS[event.key]
  if (!step) return
  event.preventDefault()
  const far = grain.value * (event.shiftKey ? 8 : 1)
  const [dx, dy] = [step[0] * far, step[1] * far]
  const o = overlay.value
  if (part === 'move') overlay.value = { ...o, x: o.x + dx, y: o.y + dy }
  else if (part === 'radius') overlay.value = { ...o, radius: Math.max(o.radius + dx - dy, 8) }
  else if (part === 'turn') overlay.value = { ...o, axis_deg: o.axis_deg + step[0] + step[1] }
  else overlay.value = { ...o, [part]: o[part] + dx + dy }
}
/** Outboard is on the other side. */
function flip() {
  const o = overlay.value
  overlay.value = {
    ...o,
    axis_deg: o.axis_deg > 0 ? o.axis_deg - 180 : o.axis_deg + 180,
    inboard: -o.outboard,
    outboard: -o.inboard,
  }
}
const inches = (px: number) => small(((px / overlay.value.radius) * props.stem) / 2, unit.value)
</script>

<template>
  <el-dialog
    align-center
    :model-value="true"
    :title="t('The mark on the photo')"
    width="min(760px, 96vw)"
    @close="emit('close')"
  >
    <div class="photo">
      <svg
        ref="drawn"
        :viewBox="`0 0 ${photo.width} ${photo.height}`"
        @pointermove="drag"
        @pointerup="held = null"
      >
        <image
          :href="`/api/builds/${buildId}/photos/${photo.id}.jpg`"
          :width="photo.width"
          :height="photo.height"
        />
        <circle
          class="ring"
          :cx="overlay.x"
          :cy="overlay.y"
          :r="overlay.radius"
          :stroke-width="2 * grain"
        />
        <path
          v-for="side in ['inboard', 'outboard'] as const"
          :key="side"
          class="line"
          :d="chord(overlay[side])"
          :stroke-width="2.5 * grain"
        />
        <path
          class="out"
          :d="`M${overlay.x} ${overlay.y} L${at(overlay.radius * 1.25).x} ${at(overlay.radius * 1.25).y}`"
          :stroke-width="1.5 * grain"
        />
        <g
          v-for="h in handles"
          :key="h.part"
          class="handle"
          tabindex="0"
          role="slider"
          :aria-label="h.words"
          :aria-valuenow="0"
          @pointerdown="hold(h.part, $event)"
          @keydown="nudge(h.part, $event)"
        >
          <circle class="touch" :cx="h.x" :cy="h.y" :r="22 * grain" />
          <circle
            :class="h.part"
            :cx="h.x"
            :cy="h.y"
            :r="(h.part === 'move' ? 5 : 8) * grain"
            :stroke-width="2 * grain"
          />
          <text
            v-if="h.part === 'turn'"
            :x="h.x"
            :y="h.y - 14 * grain"
            :font-size="15 * grain"
            text-anchor="middle"
          >
            {{ t('outboard') }}
          </text>
        </g>
      </svg>
      <div class="says">
        <p>{{ photo.said }}</p>
        <p class="figures">
          <span
            >{{ t('inboard edge') }} <b>{{ inches(overlay.inboard) }}</b></span
          >
          <span
            >{{ t('outboard edge') }} <b>{{ inches(overlay.outboard) }}</b></span
          >
          <span
            >{{ t('width') }} <b>{{ inches(overlay.outboard - overlay.inboard) }}</b></span
          >
        </p>
        <p class="quiet">
          {{ t('Scale from the tip’s diameter, {stem}.', { stem: small(stem, unit) }) }}
        </p>
        <ProblemNote :problem="problem" />
        <div class="does">
          <button type="button" class="plain" @click="flip">
            {{ t('Outboard is the other side') }}
          </button>
          <button type="button" class="plain strong" @click="emit('keep', overlay)">
            {{ t('Record this mark') }}
          </button>
        </div>
      </div>
    </div>
  </el-dialog>
</template>

<style scoped>
.photo {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(200px, 1fr);
  gap: 16px;
}
svg {
  display: block;
  width: 100%;
  max-height: 66vh;
  touch-action: none;
  background: #111;
}
.ring,
.line,
.out {
  fill: none;
}
.ring {
  stroke: #ffd23f;
}
.line {
  stroke: #ff7a4d;
}
.out {
  stroke: #ffd23f;
  stroke-dasharray: 10 6;
}
.handle {
  cursor: grab;
}
.handle circle {
  fill: #ffd23f;
  stroke: #1c2226;
}
.handle .inboard,
.handle .outboard {
  fill: #ff7a4d;
}
.handle .touch {
  fill: transparent;
  stroke: none;
}
.handle text {
  fill: #ffd23f;
  font-weight: 600;
  paint-order: stroke;
  stroke: #1c2226;
  stroke-width: 4px;
}
p {
  margin: 0 0 8px;
}
.figures {
  display: flex;
  flex-direction: column;
  gap: 2px;
  font-variant-numeric: tabular-nums;
}
.figures span {
  display: flex;
  justify-content: space-between;
}
.figures b {
  font-size: 19px;
}
.quiet {
  color: var(--quiet);
  font-size: 14px;
}
.does {
  display: grid;
  gap: 8px;
}
@media (max-width: 720px) {
  .photo {
    grid-template-columns: 1fr;
  }
}
</style>
