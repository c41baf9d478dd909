<script setup lang="ts">
/** What happened to a build, or to the shop's box and tools: who, when, from what to what. */
import { t } from '../../kit/words'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { answer, api, problemOf, type HistoryEvent, type Problem } from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { clock, day } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import NoteList from './NoteList.vue'

const props = defineProps<{ buildId?: string }>()
const { unit } = usePrefs()
const client = useQueryClient()
const KINDS = computed(() => {
  const own: [string, string][] = props.buildId
    ? [
        ['', t('All')],
        ['reading', t('Readings')],
        ['set-up', t('Set-up')],
        ['order', t('Orders')],
        ['check', t('Checks')],
        ['note', t('Notes')],
      ]
    : [
        ['', t('All')],
        ['box', t('Rod box')],
        ['tool', t('Tools')],
      ]
  return own.map(([value, words]) => ({ value, words }))
})
const kind = ref('')
const shown = ref(100)
const key = computed(() =>
  props.buildId
    ? ['build', props.buildId, 'history', unit.value, kind.value, shown.value]
    : ['shop', 'history', unit.value, kind.value, shown.value],
)
const { data, error } = useQuery({
  queryKey: key,
  placeholderData: keepPreviousData,
  staleTime: 0,
  queryFn: () => {
    const asked = kind.value ? [kind.value as HistoryEvent['kind']] : []
    const query = { unit: unit.value, kind: asked, limit: Math.min(shown.value, 500) }
    return props.buildId
      ? answer(
          api.GET('/api/builds/{build_id}/history', {
            params: { path: { build_id: props.buildId }, query },
          }),
        )
      : answer(api.GET('/api/history', { params: { query } }))
  },
})
const days = computed(() => {
  const found: { day: string; events: HistoryEvent[] }[] = []
  for (const event of data.value?.events ?? []) {
    const name = day(event.at)
    const last = found.at(-1)
    if (last?.day === name) last.events.push(event)
    else found.push({ day: name, events: [event] })
  }
  return found
})
/** The latest change of each thing is the one that can be taken back. */
const last = computed(() => data.value?.events.find((e) => e.change_id !== null)?.change_id ?? null)

const problem = ref<Problem | null>(null)
async function undo(event: HistoryEvent) {
  if (event.change_id === null) return
  try {
    if (props.buildId)
      await answer(
        api.POST('/api/builds/{build_id}/history/{change_id}/undo', {
          params: { path: { build_id: props.buildId, change_id: event.change_id } },
        }),
      )
    else
      await answer(
        api.POST('/api/history/{change_id}/undo', {
          params: { path: { change_id: event.change_id } },
        }),
      )
    problem.value = null
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
  await client.invalidateQueries()
}
</script>

<template>
  <div class="top">
    <component :is="buildId ? 'h2' : 'h1'">{{
      buildId ? t('History') : t('History of the shop')
    }}</component>
    <ChoiceRow v-model="kind" quiet :label="t('What is shown')" :options="KINDS" />
  </div>
  <NoteList v-if="buildId" :build-id="buildId" />
  <ProblemNote :problem="problem" />
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <p v-if="data && !data.events.length" class="quiet">
    {{ t('Nothing of this has happened yet.') }}
  </p>
  <section v-for="group in days" :key="group.day">
    <component :is="buildId ? 'h3' : 'h2'" class="day">{{ group.day }}</component>
    <ol>
      <li v-for="(event, i) in group.events" :key="`${event.at}${i}`">
        <span class="quiet">{{ clock(event.at) }}</span>
        <span class="who">{{ event.by }}</span>
        <span class="where">{{ event.where }}</span>
        <span class="what">
          {{ event.words }}
          <span v-for="detail in event.details" :key="detail.name" class="detail">
            {{ detail.name }}: <s>{{ detail.old }}</s> {{ detail.new }}
          </span>
        </span>
        <button
          v-if="event.change_id !== null && event.change_id === last"
          type="button"
          class="plain"
          @click="undo(event)"
        >
          {{ t('Take it back') }}
        </button>
      </li>
    </ol>
  </section>
  <button
    v-if="data && data.total > data.events.length && shown < 500"
    type="button"
    class="plain"
    @click="shown += 200"
  >
    {{ t('Older') }}
  </button>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
}
h1,
h2 {
  margin: 0;
  font-size: 24px;
}
h2.day,
.day {
  margin: 18px 0 4px;
  font-size: 16px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 70px 110px 110px 1fr auto;
  gap: 12px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--rule);
  font-variant-numeric: tabular-nums;
  line-height: 1.3;
}
.who,
.what,
.where {
  overflow-wrap: anywhere;
}
.where {
  font-weight: 600;
}
.detail {
  display: block;
  color: var(--quiet);
}
.quiet {
  color: var(--quiet);
}
@container station (max-width: 780px) {
  li {
    grid-template-columns: 62px 90px 1fr auto;
  }
  .what {
    grid-column: 1 / -1;
  }
}
</style>
