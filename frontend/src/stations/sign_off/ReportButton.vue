<script setup lang="ts">
/** The build report: it takes seconds, so it shows that it is being written and can be stopped. */
import { decimal, t } from '../../kit/words'
import { useIntervalFn } from '@vueuse/core'
import { ref } from 'vue'
import { usePrefs } from '../../kit/prefs'

const props = defineProps<{ buildId: string }>()
const { unit } = usePrefs()
const seconds = ref(0)
const failed = ref('')
let stop: AbortController | null = null
const busy = ref(false)
const { pause, resume } = useIntervalFn(() => (seconds.value += 0.1), 100, { immediate: false })

async function write() {
  seconds.value = 0
  failed.value = ''
  busy.value = true
  stop = new AbortController()
  resume()
  try {
    const url = `/api/builds/${props.buildId}/report.pdf?unit=${unit.value}`
    const response = await fetch(url, { signal: stop.signal })
    if (!response.ok) throw new Error(String(response.status))
    const link = document.createElement('a')
    link.href = URL.createObjectURL(await response.blob())
    link.download = 'build-report.pdf'
    link.click()
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
  } catch {
    if (!stop.signal.aborted) failed.value = t('The report could not be written; try again.')
  } finally {
    pause()
    busy.value = false
  }
}
</script>

<template>
  <span class="report">
    <button v-if="!busy" type="button" class="plain" @click="write">
      {{ t('Build report (PDF)') }}
    </button>
    <template v-else>
      <span role="status">
        {{ t('Writing the report… {a} s', { a: decimal(seconds.toFixed(1)) }) }}
        <progress :value="Math.min(seconds / 4, 0.97)" max="1" :aria-label="t('Report')" />
      </span>
      <button type="button" class="plain" @click="stop?.abort()">{{ t('Stop') }}</button>
    </template>
    <span v-if="failed" role="alert" class="alarm">{{ failed }}</span>
  </span>
</template>

<style scoped>
.report {
  display: inline-flex;
  gap: 10px;
  align-items: center;
}
progress {
  accent-color: var(--accent);
}
.alarm {
  color: var(--alarm-ink);
}
</style>
