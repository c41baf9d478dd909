<script setup lang="ts">
/** The checking rod's thread seen end-on: drag the arm round, an eighth of a turn a click. */
import { t } from '../kit/words'
import { computed, ref } from 'vue'
import { turnsWords } from '../kit/format'

const props = defineProps<{ turns: number; most: number }>()
const emit = defineEmits<{ turn: [turns: number] }>()

const angle = computed(() => (props.turns % 1) * 360)
const held = ref<{ angle: number; turns: number } | null>(null)

function angleOf(event: PointerEvent): number {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const dx = event.clientX - box.left - box.width / 2
  const dy = event.clientY - box.top - box.height / 2
  return (Math.atan2(dx, -dy) * 180) / Math.PI
}

function grab(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held.value = { angle: angleOf(event), turns: props.turns }
}

function drag(event: PointerEvent) {
  if (!held.value) return
  const now = angleOf(event)
  const moved = ((now - held.value.angle + 540) % 360) - 180
  const turns = held.value.turns + moved / 360
  held.value = { angle: now, turns }
  const eighths = Math.round(Math.min(Math.max(turns, 0), props.most) * 8) / 8
  if (eighths !== props.turns) emit('turn', eighths)
}

/** With the dial in hand the arrows are its own; elsewhere up and down scroll the page. */
function turnBy(event: KeyboardEvent) {
  const fine = event.shiftKey ? 0.125 : 0.25
  const steps: Record<string, number> = {
    ArrowUp: 1,
    ArrowDown: -1,
    ArrowRight: fine,
    ArrowLeft: -fine,
    PageUp: 5,
    PageDown: -5,
    Home: -props.most,
  }
  const by = steps[event.key]
  if (by === undefined) return
  event.preventDefault()
  emit('turn', Math.min(Math.max(props.turns + by, 0), props.most))
}
</script>

<template>
  <svg
    viewBox="-80 -80 160 160"
    class="dial"
    role="slider"
    tabindex="0"
    aria-valuemin="0"
    :aria-valuemax="most"
    :aria-valuenow="turns"
    :aria-valuetext="t('{turns} turns', { turns: turnsWords(turns) })"
    :aria-label="t('Checking rod at {turns} turns from closed', { turns: turnsWords(turns) })"
    @keydown="turnBy"
    @pointerdown="grab"
    @pointermove="drag"
    @pointerup="held = null"
    @pointercancel="held = null"
  >
    <circle r="74" class="rim" />
    <line
      v-for="k in 8"
      :key="k"
      :class="{ quarter: k % 2 === 0 }"
      x1="0"
      x2="0"
      y1="-74"
      :y2="k % 2 === 0 ? -60 : -66"
      :transform="`rotate(${k * 45})`"
    />
    <g :transform="`rotate(${angle})`" class="arm">
      <path d="M-7 -38 L-3.5 -68 L3.5 -68 L7 -38 Z" />
      <circle cy="-64" r="6" />
    </g>
    <circle r="40" class="hub" />
    <text y="2" class="count">{{ turnsWords(turns) }}</text>
    <text y="20" class="word">{{ t('turns') }}</text>
  </svg>
</template>

<style scoped>
.dial {
  width: 148px;
  height: 148px;
  flex: none;
  touch-action: none;
  cursor: grab;
  user-select: none;
}
.rim {
  fill: var(--steel);
  stroke: var(--ink);
  stroke-opacity: 0.4;
}
line {
  stroke: #1d2327;
  stroke-width: 1.5;
}
.quarter {
  stroke-width: 3;
}
.arm path,
.arm circle {
  fill: var(--accent);
  stroke: #1d2327;
  stroke-width: 0.8;
}
.hub {
  fill: var(--paper);
  stroke: var(--rule);
}
text {
  text-anchor: middle;
  fill: var(--ink);
  font-family: inherit;
}
.count {
  font-size: 25px;
  font-weight: 600;
}
.word {
  font-size: 14px;
  fill: var(--quiet);
}
@media (pointer: fine) and (max-height: 860px) {
  .dial {
    width: 128px;
    height: 128px;
  }
}
</style>
