<script setup lang="ts">
/** The build's readings and the build itself as files: out, and readings in. */
import { t } from '../../kit/words'
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { answer, api, problemOf, type Problem } from '../../api/client'
import FilePick from '../../kit/FilePick.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { keys } from '../builds'

const props = defineProps<{ buildId: string }>()
const client = useQueryClient()
const problem = ref<Problem | null>(null)
const kept = ref<number | null>(null)

async function bringIn(csv: string) {
  try {
    const params = { path: { build_id: props.buildId } }
    const url = '/api/builds/{build_id}/readings'
    kept.value = (await answer(api.POST(url, { params, body: { csv } }))).lines
    problem.value = null
    await client.invalidateQueries({ queryKey: keys.build(props.buildId) })
    await client.invalidateQueries({ queryKey: ['station', props.buildId] })
  } catch (error) {
    kept.value = null
    problem.value = problemOf(error)
  }
}
</script>

<template>
  <div class="files">
    <h3>{{ t('Files') }}</h3>
    <a class="plain" :href="`/api/builds/${buildId}/readings.csv`" download>{{
      t('Readings, CSV')
    }}</a>
    <FilePick :label="t('Readings from CSV')" accept=".csv,text/csv" @picked="bringIn" />
    <a class="plain" :href="`/api/builds/${buildId}/file.json`" download>{{
      t('Whole build, JSON')
    }}</a>
    <p v-if="kept !== null" role="status">
      {{ t('{kept} lines read; a line kept before stays one.', { kept }) }}
    </p>
    <ProblemNote :problem="problem" />
  </div>
</template>

<style scoped>
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding-top: 8px;
  border-top: 1px solid var(--rule);
}
h3,
p {
  width: 100%;
  margin: 0;
}
h3 {
  font-size: 16px;
}
</style>
