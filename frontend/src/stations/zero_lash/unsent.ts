/**
 * Trials that the server has not confirmed. They are kept in the browser and sent again with the
 * same key until there is an answer, so that one trial stays one reading.
 */
import { useQueryClient } from '@tanstack/vue-query'
import { createGlobalState, useStorage } from '@vueuse/core'
import { answer, api, problemOf, type Problem, type Station, type TrialIn } from '../../api/client'
import { keys } from '../builds'

export interface Unsent {
  build: string
  valve: string
  body: TrialIn
  inches: number | null
  failed: boolean
}

const useStore = createGlobalState(() => useStorage<Unsent[]>('vivid-arm.unsent', []))

/** Put a station's answer where the pages read it. */
export function useKeepStation() {
  const client = useQueryClient()
  return (station: Station) => {
    client.setQueryData(keys.station(station.build_id, station.valve.id), station)
    void client.invalidateQueries({ queryKey: keys.build(station.build_id) })
    void client.invalidateQueries({ queryKey: keys.builds })
  }
}

export function useUnsent() {
  const all = useStore()
  const keep = useKeepStation()

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

  async function sendAgain() {
    for (const item of all.value.filter((u) => u.failed)) await send(item)
  }

  return { all, send, drop, sendAgain }
}
