<script setup lang="ts">
/** Strike a line of the log out: it stays in the log, with the reason. Open while it has a title. */
import { t } from './words'
import { ref, watch } from 'vue'

const props = defineProps<{ title: string | null; reasons: string[] }>()
const emit = defineEmits<{ strike: [reason: string]; close: [] }>()

const other = ref('')
watch(
  () => props.title,
  () => (other.value = ''),
)
</script>

<template>
  <el-dialog
    align-center
    :model-value="title !== null"
    :title="title ?? ''"
    width="min(440px, 92vw)"
    @close="emit('close')"
  >
    <div class="reasons">
      <button
        v-for="reason in reasons"
        :key="reason"
        type="button"
        class="plain"
        @click="emit('strike', reason)"
      >
        {{ reason }}
      </button>
      <slot />
      <form @submit.prevent="other.trim() && emit('strike', other.trim())">
        <el-input
          v-model="other"
          :placeholder="t('Another reason')"
          :aria-label="t('Another reason')"
          maxlength="120"
        />
        <button type="submit" class="plain" :disabled="!other.trim()">{{ t('Strike out') }}</button>
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
