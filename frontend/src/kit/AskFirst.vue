<script setup lang="ts">
/** Asked before something is turned over: ``ask`` waits for the answer. */
import { ref, useTemplateRef } from 'vue'

defineProps<{ title: string; words: string; yes: string; no: string }>()
const open = ref(false)
const kept = useTemplateRef<HTMLButtonElement>('kept')
let tell: (answer: boolean) => void = () => undefined

function answered(answer: boolean) {
  tell(answer)
  open.value = false
}
defineExpose({
  ask: () => {
    open.value = true
    return new Promise<boolean>((resolve) => (tell = resolve))
  },
})
</script>

<template>
  <el-dialog
    v-model="open"
    align-center
    :title="title"
    width="min(440px, 92vw)"
    @opened="kept?.focus()"
    @closed="tell(false)"
  >
    <p>{{ words }}</p>
    <div class="answers">
      <button ref="kept" type="button" class="plain" @click="answered(false)">{{ no }}</button>
      <button type="button" class="plain strong" @click="answered(true)">{{ yes }}</button>
    </div>
  </el-dialog>
</template>

<style scoped>
p {
  margin: 0 0 12px;
}
.answers {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}
</style>
