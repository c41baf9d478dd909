<script setup lang="ts">
/** Paper tags, drawn last so that no line crosses their text. */
import FeelShape from '../../kit/FeelShape.vue'
import { TAG, type Tag } from './plan'

defineProps<{ tags: Tag[] }>()
</script>

<template>
  <g
    v-for="tag in tags"
    :key="`t-${tag.key}`"
    class="tag"
    :class="[
      tag.trial?.feel ?? tag.key,
      { conflict: tag.trial?.conflict, pending: tag.trial?.pending },
    ]"
  >
    <rect :x="tag.x - tag.width / 2" :y="tag.y" :width="tag.width" :height="TAG" rx="2" />
    <template v-if="tag.trial">
      <text :x="tag.x - 9" :y="tag.y + 18">{{ tag.text }}</text>
      <g :transform="`translate(${tag.x + 10} ${tag.y + 13})`">
        <FeelShape :feel="tag.trial.feel" />
      </g>
    </template>
    <text v-else :x="tag.x" :y="tag.y + 18">{{ tag.text }}</text>
  </g>
</template>

<style scoped>
.tag rect {
  fill: #fbf6e6;
  stroke: #00000055;
}
.tag text {
  fill: #1d2327;
  font-weight: 600;
}
.tag g {
  fill: #1d2327;
  stroke: #1d2327;
  stroke-width: 1.6;
  stroke-linejoin: round;
}
.tag.next rect {
  fill: var(--accent-on-blue);
}
.tag.expected rect {
  fill: none;
  stroke: var(--scribe);
  stroke-dasharray: 4 3;
}
.tag.expected text {
  fill: var(--scribe);
}
.tag.conflict rect {
  stroke: var(--alarm-on-blue);
  stroke-width: 3;
}
.pending {
  opacity: 0.6;
}
</style>
