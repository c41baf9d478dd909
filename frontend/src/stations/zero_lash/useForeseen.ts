/**
 * What each feel would make of the station, asked while the rod is turned and shown when it is felt.
 *
 * The server works it out for the rod as set and the log as it is; the answer to the reading itself
 * takes its place.
 */
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { answer, api, type Ahead, type Station, type TrialIn } from '../../api/client'
import { turnsWords } from '../../kit/format'
import { keys } from '../builds'

/** A rod that is turned on is not asked about at each of its settings. */
const STANDS_MS = 30
/** A shop that has too much to do to look ahead is left alone for so long. */
const REST_MS = 10_000
let restsUntil = 0

export interface RodAsSet {
  turns: number
  crank_deg: number | null
}

/** Whether a trial is of the rod that was asked about, by the tool that was counted on. */
export function isOf(
  trial: Omit<TrialIn, 'key' | 'by'>,
  rod: RodAsSet,
  tool: { instrument_id: string; instrument_version: number },
) {
  return (
    trial.setting === turnsWords(rod.turns) &&
    !trial.gap &&
    (trial.crank_deg ?? null) === rod.crank_deg &&
    trial.instrument_id === tool.instrument_id &&
    trial.instrument_version === tool.instrument_version
  )
}

/** `rod`: the checking rod as it is set; null where nobody sets one here. */
export function useForeseen(
  build: MaybeRefOrGetter<string>,
  valve: MaybeRefOrGetter<string>,
  rod: () => RodAsSet | null,
) {
  const stands = refDebounced(computed(rod), STANDS_MS)
  const { data, isFetching, isStale } = useQuery({
    queryKey: computed(() => keys.ahead(toValue(build), toValue(valve), stands.value)),
    queryFn: async ({ signal }): Promise<Ahead | null> => {
      if (performance.now() < restsUntil) return null
      const path = { build_id: toValue(build), valve_id: toValue(valve) }
      const query = { turns: stands.value?.turns ?? 0, crank_deg: stands.value?.crank_deg }
      const url = '/api/builds/{build_id}/valves/{valve_id}/ahead'
      const told = await answer(api.GET(url, { params: { path, query }, signal }))
      if (!Object.keys(told.once_felt).length) restsUntil = performance.now() + REST_MS
      return told
    },
    enabled: computed(() => stands.value !== null),
    // It holds until something of the build moves; then it is asked for again.
    staleTime: Infinity,
    retry: false,
    meta: { beforehand: true },
  })

  /** What the station says once this trial is kept; null where nobody knows yet. */
  return function foreseen(trial: Omit<TrialIn, 'key' | 'by'>): Station | null {
    const told = data.value
    if (!told || !stands.value || isFetching.value || isStale.value) return null
    return isOf(trial, stands.value, told) ? (told.once_felt[trial.feel] ?? null) : null
  }
}
