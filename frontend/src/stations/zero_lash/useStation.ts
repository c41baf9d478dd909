/** One valve's station: what the server knows, and what is sent to it. */
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import {
  answer,
  api,
  problemOf,
  type MeasureIn,
  type Problem,
  type Station,
  type TrialIn,
} from '../../api/client'
import { keys } from '../builds'
import { useKeepStation, useUnsent } from './unsent'

export function useStation(build: MaybeRefOrGetter<string>, valve: MaybeRefOrGetter<string>) {
  const keep = useKeepStation()
  const { all, send, drop } = useUnsent()
  const path = () => ({ build_id: toValue(build), valve_id: toValue(valve) })
  const query = useQuery({
    queryKey: computed(() => keys.station(toValue(build), toValue(valve))),
    queryFn: () =>
      answer(api.GET('/api/builds/{build_id}/valves/{valve_id}', { params: { path: path() } })),
  })
  const unsent = computed(() => all.value.filter((u) => u.valve === toValue(valve)))

  function trial(body: Omit<TrialIn, 'key'>, inches: number | null): Promise<Problem | null> {
    const { build_id, valve_id } = path()
    const item = { build: build_id, valve: valve_id, inches, failed: false }
    return send({ ...item, body: { ...body, key: crypto.randomUUID() } })
  }

  // A measurement that got no answer keeps its key, so that a second try stays one reading.
  let last = { values: '', key: '' }
  function measureKey(values: Omit<MeasureIn, 'key'>): string {
    const now = JSON.stringify(values)
    if (last.values !== now) last = { values: now, key: crypto.randomUUID() }
    return last.key
  }

  async function attempt(call: Promise<Station>): Promise<Problem | null> {
    try {
      keep(await call)
      last = { values: '', key: '' }
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

  function measure(values: Omit<MeasureIn, 'key'>) {
    const body = { ...values, key: measureKey(values) }
    const url = '/api/builds/{build_id}/valves/{valve_id}/measures'
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

  return { query, unsent, send, drop, trial, measure, countBack, strike, expect }
}
