<script setup lang="ts">
/** Loose points to longer, tight to shorter, zero is a full diamond; a bar says how loose. */
import type { Feel } from '../api/client'
import FeelShape from './FeelShape.vue'

defineProps<{ feel: Feel }>()
</script>

<template>
  <svg viewBox="-8 -8 16 16" class="glyph" aria-hidden="true">
    <FeelShape :feel="feel" />
  </svg>
</template>

<style scoped>
.glyph {
  width: 1em;
  height: 1em;
  flex: none;
  fill: currentColor;
  stroke: currentColor;
  stroke-width: 1.6;
  stroke-linejoin: round;
}
</style>
