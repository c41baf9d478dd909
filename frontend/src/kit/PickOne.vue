<script setup lang="ts" generic="T extends string">
/** One of many, from a list that opens. What is in force stands there until another is kept. */
import { computed, nextTick, useTemplateRef } from 'vue'

const props = defineProps<{
  label: string
  options: readonly { value: T; words: string }[]
  modelValue: T | null
  /** What stands there while none is chosen; without it one always is. */
  none?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()

const list = useTemplateRef('list')
const chosen = computed(() => props.modelValue ?? '')
async function pick(event: Event) {
  emit('update:modelValue', (event.target as HTMLSelectElement).value as T)
  await nextTick()
  if (list.value) list.value.value = chosen.value
}
/** Keys open the list instead of going through it: what is passed over is not kept. */
function open(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  // A browser that cannot open it from here goes through it as it always does.
  if (!('showPicker' in HTMLSelectElement.prototype)) return
  if (!/^(Arrow(Up|Down)|Home|End|Page(Up|Down)|Enter|.)$/.test(event.key)) return
  event.preventDefault()
  list.value?.showPicker()
}
</script>

<template>
  <select ref="list" :aria-label="label" :value="chosen" @change="pick" @keydown="open">
    <option v-if="none !== undefined" value="">{{ none }}</option>
    <option v-for="option in options" :key="option.value" :value="option.value">
      {{ option.words }}
    </option>
  </select>
</template>

<style scoped>
select {
  display: block;
  width: 100%;
}
</style>
