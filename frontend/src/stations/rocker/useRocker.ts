/** One valve's rocker: what the server knows, the batch to move inside, and what is sent to it. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Rocker,
  type MarkIn,
  type Photo,
  type Problem,
} from '../../api/client'
import { usePrefs } from '../../kit/prefs'
import { keys } from '../builds'

/** What was seen and set at a try; what is left out was not seen, or stands as before. */
export type Seen = Partial<Omit<MarkIn, 'key'>>
export type KeepTry = (seen: Seen) => Promise<Problem | null>

const BLANK: Omit<MarkIn, 'key'> = {
  inboard: '',
  outboard: '',
  width: '',
  measured_from: 'middle',
  closed_end: null,
  angle: '',
  angle_by: 'inclinometer',
  lift: '',
  real_lift: '',
  pairs: '',
  rod: '',
  shim: '',
  photo: null,
  unit: 'in',
  by: '',
  reason: '',
}

export function useRocker(build: MaybeRefOrGetter<string>, valve: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const { unit, by } = usePrefs()
  const path = () => ({ build_id: toValue(build), valve_id: toValue(valve) })
  const key = () => [...keys.station(toValue(build), toValue(valve)), 'rocker'] as const
  const query = useQuery({
    queryKey: computed(key),
    queryFn: () =>
      answer(
        api.GET('/api/builds/{build_id}/valves/{valve_id}/rocker', { params: { path: path() } }),
      ),
  })
  const motion = useQuery({
    queryKey: computed(() => [...key(), 'motion']),
    queryFn: () =>
      answer(
        api.GET('/api/builds/{build_id}/valves/{valve_id}/rocker/motion', {
          params: { path: path() },
        }),
      ),
    placeholderData: (before) => before,
  })

  function kept(arm: Rocker) {
    client.setQueryData(key(), arm)
    void client.invalidateQueries({ queryKey: [...key(), 'motion'] })
    void client.invalidateQueries({ queryKey: keys.build(toValue(build)) })
    void client.invalidateQueries({
      queryKey: keys.station(toValue(build), toValue(valve)),
      exact: true,
    })
  }
  async function attempt(call: Promise<Rocker>): Promise<Problem | null> {
    try {
      kept(await call)
      return null
    } catch (error) {
      return problemOf(error)
    }
  }

  // A try that got no answer keeps its key, so that sending it again stays one try.
  let last = { values: '', key: '' }
  async function mark(seen: Seen): Promise<Problem | null> {
    const values = { ...BLANK, unit: unit.value, by: by.value, ...seen }
    const now = JSON.stringify(values)
    if (last.values !== now) last = { values: now, key: crypto.randomUUID() }
    const url = '/api/builds/{build_id}/valves/{valve_id}/marks'
    const body = { ...values, key: last.key }
    const problem = await attempt(answer(api.POST(url, { params: { path: path() }, body })))
    if (!problem) last = { values: '', key: '' }
    return problem
  }
  function strike(reading_id: number, reason: string, by: string) {
    const url = '/api/builds/{build_id}/valves/{valve_id}/marks/voids'
    const body = { key: crypto.randomUUID(), reading_id, reason, by }
    return attempt(answer(api.POST(url, { params: { path: path() }, body })))
  }
  async function photo(file: File): Promise<Photo> {
    const form = new FormData()
    form.append('id', crypto.randomUUID())
    form.append('file', file)
    return answer(
      api.POST('/api/builds/{build_id}/photos', {
        params: { path: { build_id: toValue(build) } },
        body: form as unknown as { id: string; file: string },
        bodySerializer: () => form,
      }),
    )
  }
  return { query, motion, mark, strike, photo }
}
