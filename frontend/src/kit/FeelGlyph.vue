<script setup lang="ts">
/** Loose points to longer, tight to shorter, zero is a full diamond. */
import type { Feel } from '../api/client'

defineProps<{ feel: Feel }>()
</script>

<template>
  <svg viewBox="-8 -8 16 16" class="glyph" :class="feel" aria-hidden="true">
    <path v-if="feel === 'loose'" d="M-4 -6 L6 0 L-4 6 Z" />
    <path v-else-if="feel === 'tight'" d="M4 -6 L-6 0 L4 6 Z" />
    <path v-else d="M0 -7 L7 0 L0 7 L-7 0 Z" />
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
.loose {
  fill: none;
}
</style>
