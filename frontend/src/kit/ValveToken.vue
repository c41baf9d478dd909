<script setup lang="ts">
/** A valve: round for intake, square for exhaust, its name, and its state by a mark. */
import { computed } from 'vue'
import type { Valve } from '../api/client'
import { stateWords } from './states'
import { t } from './words'

const props = defineProps<{
  valve: Valve
  current?: boolean
  /** Without the mark of its zero lash. */
  bare?: boolean
}>()

const MARKS = { waiting: '', closing: '…', settled: '✓', conflict: '!', outside: '!' } as const
const mark = computed(() =>
  props.bare ? '' : props.valve.doubted ? '!' : MARKS[props.valve.state],
)
</script>

<template>
  <span
    class="token"
    :class="[valve.kind, valve.state, { current, doubted: valve.doubted }]"
    :title="`${valve.cylinder} ${t(valve.kind)}: ${stateWords(valve)}`"
  >
    {{ valve.name }}<sup v-if="mark">{{ mark }}</sup>
  </span>
</template>

<style scoped>
.token {
  display: inline-flex;
  align-items: center;
  justify-content: center;
  width: 42px;
  height: 42px;
  border: 2px solid var(--hue);
  color: var(--ink);
  font-weight: 600;
  font-size: 16px;
  background: var(--paper);
  position: relative;
  box-sizing: border-box;
}
.intake {
  --hue: var(--intake);
  border-radius: 50%;
}
.exhaust {
  --hue: var(--exhaust);
  border-radius: 3px;
}
.current {
  background: var(--hue);
  color: var(--on-hue);
}
sup {
  position: absolute;
  top: -5px;
  right: -5px;
  min-width: 16px;
  height: 16px;
  line-height: 16px;
  border-radius: 8px;
  font-size: 12px;
  text-align: center;
  background: var(--ink);
  color: var(--paper);
}
.conflict sup,
.doubted sup,
.outside sup {
  background: var(--alarm);
  color: var(--paper);
  border-radius: 2px;
}
</style>
