<script setup lang="ts">
/** Lines from the tags down to the rule, a trial's with a pin in it. */
import { TAG, type Plan, type Tag } from './plan'

defineProps<{ plan: Plan; tags: Tag[] }>()
</script>

<template>
  <g
    v-for="tag in tags"
    :key="tag.key"
    class="peg"
    :class="[
      tag.trial?.feel ?? tag.key,
      { conflict: tag.trial?.conflict, pending: tag.trial?.pending },
    ]"
  >
    <line :x1="tag.x" :x2="tag.x" :y1="tag.y + TAG" :y2="plan.top" />
    <circle
      v-if="tag.trial"
      :cx="tag.x"
      :cy="plan.top"
      r="4"
      :data-peg="tag.trial.number"
      :data-length="tag.trial.length"
    />
  </g>
</template>

<style scoped>
.peg line {
  stroke: var(--scribe);
  stroke-width: 1.5;
}
.peg circle {
  fill: var(--layout-blue);
  stroke: var(--scribe);
  stroke-width: 2;
}
.peg.next line,
.peg.expected line {
  stroke-dasharray: 4 4;
}
.peg.conflict line {
  stroke: var(--alarm-on-blue);
  stroke-dasharray: 6 3;
}
.pending {
  opacity: 0.6;
}
</style>
