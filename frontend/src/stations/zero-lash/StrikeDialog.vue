<script setup lang="ts">
/** Strike a reading out: it stays in the log, with the reason. */
import { ref, watch } from 'vue'
import type { LogLine } from '../../api/client'

const props = defineProps<{ line: LogLine | null }>()
const emit = defineEmits<{ strike: [reason: string]; close: [] }>()

const REASONS = [
  'Misread',
  'Not on the base circle',
  'Tip not in its cup',
  'Plunger pushed',
  'Turns miscounted',
]
const other = ref('')
watch(
  () => props.line,
  () => (other.value = ''),
)
</script>

<template>
  <el-dialog
    align-center
    :model-value="line !== null"
    :title="
      line?.number
        ? `Strike out ${line.method ? 'reading' : 'trial'} ${line.number}`
        : 'Strike out the count back'
    "
    width="min(440px, 92vw)"
    @close="emit('close')"
  >
    <div class="reasons">
      <button
        v-for="reason in REASONS"
        :key="reason"
        type="button"
        class="plain"
        @click="emit('strike', reason)"
      >
        {{ reason }}
      </button>
      <form @submit.prevent="other.trim() && emit('strike', other.trim())">
        <el-input
          v-model="other"
          placeholder="Another reason"
          aria-label="Another reason"
          maxlength="120"
        />
        <button type="submit" class="plain" :disabled="!other.trim()">Strike out</button>
      </form>
    </div>
  </el-dialog>
</template>

<style scoped>
.reasons {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
form {
  grid-column: 1 / -1;
  display: flex;
  gap: 8px;
}
</style>
