<script setup lang="ts" generic="T extends string | number">
/** A few choices side by side; the one in force is filled. */
defineProps<{
  label: string
  options: { value: T; words: string }[]
  modelValue: T | null
  quiet?: boolean
}>()
defineEmits<{ 'update:modelValue': [value: T] }>()
</script>

<template>
  <span v-if="!quiet" class="label">{{ label }}</span>
  <div class="choices" role="group" :aria-label="label">
    <button
      v-for="option in options"
      :key="option.value"
      type="button"
      class="plain"
      :class="{ strong: option.value === modelValue }"
      :aria-pressed="option.value === modelValue"
      @click="$emit('update:modelValue', option.value)"
    >
      {{ option.words }}
    </button>
    <slot />
  </div>
</template>

<style scoped>
.label {
  color: var(--quiet);
  font-size: 14px;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
</style>
