<script setup lang="ts">
/** Count the turns back to closed: the trade's check of a running count. */
import { t } from '../../kit/words'
import { nextTick, ref, useTemplateRef } from 'vue'
import type { Change, Problem } from '../../api/client'
import { takeOut } from '../../kit/entries'
import ProblemNote from '../../kit/ProblemNote.vue'
import { refusedBy } from '../../kit/refused'

const props = defineProps<{
  check: (turns: string, change?: Change) => Promise<Problem | null>
}>()
const counting = ref(false)
const counted = ref('')
const problem = ref<Problem | null>(null)
const countBox = useTemplateRef<{ focus(): void }>('countBox')

async function start() {
  counting.value = true
  await nextTick()
  countBox.value?.focus()
}

async function take(change?: Change) {
  const turns = counted.value
  const putBack = takeOut(counted)
  counting.value = false
  problem.value = await props.check(turns, change)
  if (!problem.value) return
  putBack()
  await start()
}

defineExpose({ start })
</script>

<template>
  <div class="count" data-pad data-turns>
    <button v-if="!counting" type="button" class="plain" @click="start">
      {{ t('Count back to closed') }} <kbd>C</kbd>
    </button>
    <form v-else @submit.prevent="take()">
      <label for="counted">{{ t('Turns back to closed') }}</label>
      <el-input
        id="counted"
        ref="countBox"
        v-model="counted"
        autocomplete="off"
        placeholder="9 5/8"
        v-bind="refusedBy('counted', problem)"
        @keydown.esc="counting = false"
      />
      <button type="submit" class="plain">{{ t('Check') }}</button>
    </form>
    <ProblemNote
      id="counted-why"
      :problem="problem"
      @choose="take"
      @use="((counted = $event), take())"
    />
  </div>
</template>

<style scoped>
label {
  color: var(--quiet);
  font-size: 14px;
}
.count form {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.count .el-input {
  flex: 1 0 150px;
  max-width: 220px;
}
</style>
