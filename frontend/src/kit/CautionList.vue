<script setup lang="ts">
/** The cautions of a station; they always stand there. */
import { t } from './words'
defineProps<{ cautions: string[] }>()
</script>

<template>
  <ul class="cautions" :aria-label="t('Cautions')">
    <li v-for="caution in cautions" :key="caution">{{ caution }}</li>
  </ul>
</template>

<style scoped>
.cautions {
  margin: 6px 0 0;
  padding: 8px 0 0;
  list-style: none;
  border-top: 1px solid var(--rule);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 26px;
  font-size: 14px;
  color: var(--quiet);
}
.cautions li::before {
  content: '⚠ ';
  color: var(--alarm-ink);
}
</style>
