<script setup lang="ts">
/** The shape of a feel, in a box of -8 to 8. */
import type { Feel } from '../api/client'

defineProps<{ feel: Feel }>()
const SHAPES: Record<Feel, string> = {
  loose: 'M-4 -6 L6 0 L-4 6 Z',
  quite: 'M-2 -6 L7 0 L-2 6 Z M-6 -6 V6',
  barely: 'M-3 -3.5 L3 0 L-3 3.5 Z',
  zero: 'M0 -7 L7 0 L0 7 L-7 0 Z',
  no_lash: 'M4 -6 L-6 0 L4 6 Z',
  tight: 'M4 -6 L-6 0 L4 6 Z',
}
</script>

<template>
  <path :class="{ open: feel !== 'zero' && feel !== 'tight' }" :d="SHAPES[feel]" />
</template>

<style scoped>
.open {
  fill: none;
}
</style>
