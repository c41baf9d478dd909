/** The notes of a build: read, kept through the outbox, with a photo where one is taken. */
import { t } from '../../kit/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'
import { answer, api, problemOf, type Note, type Problem } from '../../api/client'
import { put } from '../../kit/put'
import { onKept, usePost } from '../../kit/useOutbox'

const keyOf = (build: string) => ['build', build, 'notes'] as const

onKept(['note'], (entry, notes: Note[], client) => {
  put(client, keyOf(entry.build), notes)
  void client.invalidateQueries({ queryKey: ['build', entry.build, 'history'] })
})

export interface NewNote {
  text: string
  valve_id?: string | null
  reading_id?: number | null
  photo_id?: string | null
  replaces?: number | null
}

export function useNotes(build: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const post = usePost()
  const problem = ref<Problem | null>(null)
  const path = () => ({ build_id: toValue(build) })
  const query = useQuery({
    queryKey: computed(() => keyOf(toValue(build))),
    queryFn: () => answer(api.GET('/api/builds/{build_id}/notes', { params: { path: path() } })),
  })
  async function keep(note: NewNote): Promise<boolean> {
    const words = note.text ? t('note: {a}', { a: note.text.slice(0, 40) }) : t('a note')
    const body = { valve_id: null, reading_id: null, photo_id: null, replaces: null, ...note }
    problem.value = await post({ kind: 'note', words, build: toValue(build), body })
    if (problem.value?.status === 409)
      await client.invalidateQueries({ queryKey: keyOf(toValue(build)) })
    return problem.value === null
  }
  /** Keep a photo and give its id; null where it was refused. */
  async function photo(file: File): Promise<string | null> {
    const form = new FormData()
    form.append('id', crypto.randomUUID())
    form.append('file', file)
    try {
      const kept = await answer(
        api.POST('/api/builds/{build_id}/photos', {
          params: { path: path() },
          body: form as unknown as { id: string; file: string },
          bodySerializer: () => form,
        }),
      )
      problem.value = null
      return kept.id
    } catch (thrown) {
      problem.value = problemOf(thrown)
      return null
    }
  }
  return { notes: query.data, problem, keep, photo }
}
