<script setup lang="ts">
/** Begins the tour: a practice engine is put on the bench, and its first station opened. */
import { t } from '../../kit/words'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, problemOf } from '../../api/client'
import { useTour } from './tour'

const emit = defineEmits<{ begun: [] }>()
const router = useRouter()
const { begin } = useTour()
const said = ref('')
async function start() {
  try {
    const body = { id: crypto.randomUUID(), scenario: 'pump', seed: null, sealed: false }
    const made = await answer(api.POST('/api/practice', { body }))
    begin(made.id)
    emit('begun')
    await router.push({ name: 'base_circle', params: { buildId: made.build_id } })
  } catch (thrown) {
    said.value = problemOf(thrown).detail
  }
}
</script>

<template>
  <button type="button" class="plain" @click="start">{{ t('Tour: five minutes') }}</button>
  <span v-if="said" role="alert">{{ said }}</span>
</template>
