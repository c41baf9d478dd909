<script setup lang="ts">
/** Says that an answer is waited for, once it takes longer than 300 ms. */
import { t } from './words'
import { useIsFetching, useIsMutating } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, watch } from 'vue'

const AFTER_MS = 300
/** Nobody waits for what is asked before anybody wants it. */
const fetching = useIsFetching({ predicate: ({ meta }) => !meta?.beforehand })
const mutating = useIsMutating()
const waits = computed(() => fetching.value + mutating.value > 0)
const shown = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  waits,
  (now) => {
    clearTimeout(timer)
    if (now) timer = setTimeout(() => (shown.value = true), AFTER_MS)
    else shown.value = false
  },
  { immediate: true },
)
onScopeDispose(() => clearTimeout(timer))
</script>

<template>
  <p class="busy" role="status">
    <span v-if="shown">{{ t('Working…') }}</span>
  </p>
</template>

<style scoped>
.busy {
  position: fixed;
  top: 54px;
  left: 50%;
  z-index: 20;
  margin: 0;
  pointer-events: none;
}
span {
  display: block;
  padding: 4px 14px;
  color: var(--page);
  background: var(--ink);
  transform: translateX(-50%);
}
</style>
