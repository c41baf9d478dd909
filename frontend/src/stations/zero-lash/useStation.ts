/** One valve's station: what the server knows, and readings on their way to it. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { answer, api, problemOf, type Problem, type Station, type TrialIn } from '../../api/client'
import { keys } from '../builds'

/** A trial that the server has not confirmed; kept in the browser until it has. */
export interface Unsent {
  build: string
  valve: string
  body: TrialIn
  inches: number | null
  failed: boolean
}

export function useStation(build: MaybeRefOrGetter<string>, valve: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const path = () => ({ build_id: toValue(build), valve_id: toValue(valve) })
  const query = useQuery({
    queryKey: computed(() => keys.station(toValue(build), toValue(valve))),
    queryFn: () =>
      answer(api.GET('/api/builds/{build_id}/valves/{valve_id}', { params: { path: path() } })),
  })
  const all = useStorage<Unsent[]>('vivid-arm.unsent', [])
  const unsent = computed(() => all.value.filter((u) => u.valve === toValue(valve)))

  function keep(station: Station) {
    client.setQueryData(keys.station(station.build_id, station.valve.id), station)
    void client.invalidateQueries({ queryKey: keys.build(station.build_id) })
    void client.invalidateQueries({ queryKey: keys.builds })
  }

  function drop(key: string) {
    all.value = all.value.filter((u) => u.body.key !== key)
  }

  /** Send a trial; the problem when it was refused, null when it is kept. */
  async function send(item: Unsent): Promise<Problem | null> {
    drop(item.body.key)
    all.value = [...all.value, { ...item, failed: false }]
    try {
      const params = { path: { build_id: item.build, valve_id: item.valve } }
      const url = '/api/builds/{build_id}/valves/{valve_id}/trials'
      keep(await answer(api.POST(url, { params, body: item.body })))
      drop(item.body.key)
      return null
    } catch (error) {
      const problem = problemOf(error)
      drop(item.body.key)
      if (problem.status === 0 || problem.status >= 500)
        all.value = [...all.value, { ...item, failed: true }]
      return problem
    }
  }

  function trial(body: Omit<TrialIn, 'key'>, inches: number | null): Promise<Problem | null> {
    const { build_id, valve_id } = path()
    const item = { build: build_id, valve: valve_id, inches, failed: false }
    return send({ ...item, body: { ...body, key: crypto.randomUUID() } })
  }

  async function attempt(call: Promise<Station>): Promise<Problem | null> {
    try {
      keep(await call)
      return null
    } catch (error) {
      return problemOf(error)
    }
  }

  function countBack(turns: string, by: string) {
    const body = { key: crypto.randomUUID(), turns, by }
    const url = '/api/builds/{build_id}/valves/{valve_id}/count-backs'
    return attempt(answer(api.POST(url, { params: { path: path() }, body })))
  }

  function strike(reading_id: number, reason: string, by: string) {
    const body = { key: crypto.randomUUID(), reading_id, reason, by }
    const url = '/api/builds/{build_id}/valves/{valve_id}/voids'
    return attempt(answer(api.POST(url, { params: { path: path() }, body })))
  }

  function expect(version: number, expected: string, unit: 'in' | 'mm') {
    const body = { version, expected, unit }
    const url = '/api/builds/{build_id}/valves/{valve_id}'
    return attempt(answer(api.PATCH(url, { params: { path: path() }, body })))
  }

  return { query, unsent, send, drop, trial, countBack, strike, expect }
}
