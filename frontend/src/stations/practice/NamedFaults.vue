<script setup lang="ts">
/** What is wrong with the engine, as its builder has it. */
import { t } from '../../kit/words'
import { ref, watch } from 'vue'
import type { Exercise } from '../../api/client'

const props = defineProps<{ exercise: Exercise }>()
const emit = defineEmits<{ keep: [kinds: Exercise['named']] }>()
const named = ref<Exercise['named']>([])
watch(
  () => props.exercise.named,
  (kinds) => (named.value = [...kinds]),
  { immediate: true },
)
</script>

<template>
  <fieldset class="faults">
    <legend>{{ t('What is wrong with this engine') }}</legend>
    <label v-for="f in exercise.faults" :key="f.kind">
      <input v-model="named" type="checkbox" :value="f.kind" /> {{ f.name }}
    </label>
    <button type="button" class="plain strong" @click="emit('keep', named)">{{ t('Keep') }}</button>
  </fieldset>
</template>

<style scoped>
.faults {
  display: flex;
  flex-direction: column;
  border: 1px solid var(--rule);
}
.faults label {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 44px;
}
</style>
