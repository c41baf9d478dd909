<script setup lang="ts">
/** Notes on a build, or on one of its valves and its readings; a new one, with a photo. */
import { t } from '../../kit/words'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { LogLine, Note } from '../../api/client'
import { useBegun } from '../../kit/begun'
import FilePick from '../../kit/FilePick.vue'
import { when } from '../../kit/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import { useNotes } from './useNotes'

const props = defineProps<{ buildId: string; valveId?: string }>()
/** The reading that a new note is on. */
const on = defineModel<LogLine | null>('on', { default: null })
const { notes, problem, keep, photo } = useNotes(() => props.buildId)

const shown = computed(() =>
  (notes.value ?? []).filter((n) => !props.valveId || n.valve_id === props.valveId),
)
const taken = ref<string | null>(null)
const changing = ref<Note | null>(null)
const text = useBegun(() =>
  ['note', props.buildId, props.valveId, on.value?.id, changing.value?.id].join(' '),
)
const writing = ref(text.value !== '')
const box = useTemplateRef<HTMLTextAreaElement>('box')
const opener = useTemplateRef<HTMLButtonElement>('opener')
async function begin(note: Note | null = null) {
  changing.value = note
  text.value ||= note?.text ?? ''
  taken.value = note?.photo_id ?? null
  writing.value = true
  await nextTick()
  box.value?.focus()
}
watch(on, (line) => line && void begin())
async function close() {
  writing.value = false
  on.value = null
  problem.value = null
  await nextTick()
  opener.value?.focus()
}
async function end() {
  text.value = ''
  await close()
}
async function write() {
  const old = changing.value
  const note = {
    text: text.value.trim(),
    photo_id: taken.value,
    replaces: old?.id ?? null,
    valve_id: old ? old.valve_id : (props.valveId ?? null),
    reading_id: old ? old.reading_id : (on.value?.id ?? null),
  }
  if (await keep(note)) await end()
}
async function takeAway(note: Note) {
  await keep({ text: '', replaces: note.id })
}
async function take(file: File) {
  taken.value = (await photo(file)) ?? taken.value
}
const picture = (id: string) => `/api/builds/${props.buildId}/photos/${id}.jpg`
</script>

<template>
  <section class="notes" :aria-label="t('Notes')">
    <ul v-if="shown.length">
      <li v-for="note in shown" :key="note.id">
        <p>
          <b v-if="note.where && (!valveId || note.reading_id)">{{ note.where }}: </b
          >{{ note.text }}
          <span class="quiet"
            >{{ note.by || t('unsigned') }}, {{ when(note.at)
            }}{{ note.changed ? t(', changed') : '' }}</span
          >
        </p>
        <a v-if="note.photo_id" :href="picture(note.photo_id)" target="_blank" rel="noopener"
          ><img :src="picture(note.photo_id)" :alt="t('Photo of this note')" loading="lazy"
        /></a>
        <button
          type="button"
          class="plain"
          :aria-label="t('Change note: {text}', { text: note.text })"
          @click="begin(note)"
        >
          {{ t('Change') }}
        </button>
        <button
          type="button"
          class="plain"
          :aria-label="t('Take away note: {text}', { text: note.text })"
          @click="takeAway(note)"
        >
          ✕
        </button>
      </li>
    </ul>
    <form v-if="writing" @submit.prevent="write" @keydown.esc.stop="close">
      <textarea
        ref="box"
        v-model="text"
        rows="2"
        maxlength="2000"
        :aria-label="on ? t('Note on reading {number}', { number: on.number }) : t('Note')"
        :placeholder="
          on ? t('On reading {number}', { number: on.number }) : t('What should be remembered')
        "
        @keydown.ctrl.enter="write"
      />
      <div class="row">
        <img v-if="taken" :src="picture(taken)" :alt="t('Photo')" />
        <FilePick :label="t('Photo')" accept="image/*" binary @file="take" />
        <button type="button" class="plain" @click="end">{{ t('Leave it') }}</button>
        <button type="submit" class="plain strong" :disabled="!text.trim() && !taken">
          {{ t('Keep') }}
        </button>
      </div>
    </form>
    <button v-else ref="opener" type="button" class="plain" @click="begin()">
      {{ t('Note') }}
    </button>
    <ProblemNote :problem="problem" />
  </section>
</template>

<style scoped>
.notes {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 8px;
  padding-top: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--rule);
}
p {
  flex: 1;
  margin: 0;
  line-height: 1.3;
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.quiet {
  color: var(--quiet);
  font-size: 14px;
}
img {
  display: block;
  width: 72px;
  height: 54px;
  object-fit: cover;
}
form {
  width: 100%;
}
textarea {
  display: block;
  width: 100%;
  padding: 8px;
  color: inherit;
  background: var(--paper);
  border: 1px solid var(--rule);
  resize: vertical;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding-top: 6px;
}
.row .strong {
  margin-left: auto;
}
</style>
