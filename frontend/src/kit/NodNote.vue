<script setup lang="ts">
/** A valve that an apprentice measured waits for a builder's nod; here the builder gives it. */
import { t } from './words'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { answer, api, problemOf, type Problem } from '../api/client'
import { me } from './me'
import { NODS, useNods } from './nods'
import { put } from './put'
import ProblemNote from './ProblemNote.vue'

const props = defineProps<{ buildId: string; valveId: string }>()
const client = useQueryClient()
const waiting = useNods()
const here = computed(() => waiting.value.find((w) => w.valve_id === props.valveId))
const may = computed(() => me.value.rights.includes('decide'))
const problem = ref<Problem | null>(null)
async function nod() {
  if (!here.value) return
  const path = { build_id: props.buildId, valve_id: props.valveId }
  const body = { key: crypto.randomUUID(), reading_id: here.value.reading_id }
  try {
    const url = '/api/builds/{build_id}/valves/{valve_id}/nods'
    put(client, NODS, await answer(api.POST(url, { params: { path }, body })))
    void client.invalidateQueries({ queryKey: ['build', props.buildId] })
    problem.value = null
  } catch (thrown) {
    problem.value = problemOf(thrown)
    void client.invalidateQueries()
  }
}
</script>

<template>
  <p v-if="here" class="nod">
    <span>{{ t("Measured by {a}; waits for a builder's nod.", { a: here.by.join(', ') }) }}</span>
    <button v-if="may" type="button" class="plain" @click="nod">
      {{ t('I have looked: it stands') }}
    </button>
  </p>
  <ProblemNote :problem="problem" />
</template>

<style scoped>
.nod {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin: 0;
  padding: 6px 12px;
  border-left: 4px solid var(--accent);
  background: var(--paper);
}
</style>
