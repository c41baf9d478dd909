<script setup lang="ts">
/** The heads in plan after fitting: each valve open, passed or failed, by shape and mark. */
import { computed } from 'vue'
import type { SignOff } from '../api/client'

const props = defineProps<{
  heads: SignOff['heads']
  states: SignOff['states']
  selected: string
  /** Valves the check in hand still asks for. */
  wanted: string[]
}>()
const emit = defineEmits<{ select: [name: string] }>()
const CELL = 46
const GAP = 14
const HEIGHT = 60
const rows = computed(() =>
  props.heads.map((head) => {
    let left = 8
    const cells = head.valves.map((valve, i) => {
      if (i > 0) left += CELL + (i % 2 === 0 ? GAP : 2)
      return { valve, left }
    })
    return { bank: head.bank, cells, width: left + CELL + 8 }
  }),
)
const widest = computed(() => Math.max(...rows.value.map((r) => r.width)))
const MARKS = { open: '', passed: '✓', failed: '✕' } as const
</script>

<template>
  <div class="heads">
    <svg
      v-for="row in rows"
      :key="row.bank"
      :viewBox="`0 0 ${widest} ${HEIGHT}`"
      role="group"
      :aria-label="row.bank"
      :style="{ maxWidth: `${widest * 1.15}px` }"
    >
      <rect class="head" :width="row.width" :height="HEIGHT" rx="8" />
      <g
        v-for="{ valve, left } in row.cells"
        :key="valve.name"
        :transform="`translate(${left} 0)`"
        class="cell"
        :class="[valve.kind, states[valve.name], { wanted: wanted.includes(valve.name) }]"
        role="button"
        :aria-label="`${valve.name}: ${states[valve.name]}`"
        :aria-pressed="valve.name === selected"
        @click="emit('select', valve.name)"
      >
        <rect class="touch" :width="CELL" :height="HEIGHT" />
        <rect
          v-if="valve.name === selected"
          class="ring"
          x="1"
          y="3"
          :width="CELL - 2"
          :height="HEIGHT - 6"
          rx="4"
        />
        <circle v-if="valve.kind === 'intake'" class="token" :cx="CELL / 2" cy="32" r="16" />
        <rect v-else class="token" :x="CELL / 2 - 15" y="17" width="30" height="30" rx="3" />
        <text class="name" :x="CELL / 2" y="37">{{ valve.name }}</text>
        <g v-if="MARKS[states[valve.name] ?? 'open']" :transform="`translate(${CELL - 8} 12)`">
          <rect
            v-if="states[valve.name] === 'failed'"
            class="mark"
            x="-8"
            y="-8"
            width="16"
            height="16"
          />
          <circle v-else class="mark" r="8.5" />
          <text class="tick" y="4.5">{{ MARKS[states[valve.name] ?? 'open'] }}</text>
        </g>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.heads {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
svg {
  display: block;
  width: 100%;
  min-width: 300px;
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
.intake {
  --hue: #63c3d2;
}
.exhaust {
  --hue: #e9a64c;
}
.token {
  fill: #f7f4ec;
  stroke: var(--hue);
  stroke-width: 3;
}
.open .token {
  fill: none;
  stroke-dasharray: 4 3;
}
.open .name {
  fill: var(--scribe);
}
text {
  text-anchor: middle;
  font-weight: 600;
}
.name {
  font-size: 15px;
  fill: #0b1a2c;
}
.mark {
  fill: var(--good-on-blue);
  stroke: #0b1a2c;
}
.failed .mark {
  fill: var(--alarm-on-blue);
}
.tick {
  font-size: 13px;
  fill: #0b1a2c;
}
.wanted .token {
  stroke-width: 4.5;
}
</style>
