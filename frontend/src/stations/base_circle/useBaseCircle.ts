/** The crank wheel of a build for the valves chosen to be measured. */
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { answer, api, type StopPlan, type BaseCircle } from '../../api/client'
import { keys } from '../builds'

export type Selection = 'all' | 'corners' | 'cylinder'
export type Closing = 'starts_down' | 'third_left' | 'almost_closed'

export interface WheelChoice {
  selection: Selection
  cylinder: number
  closing: Closing
}

export function useBaseCircle(
  build: MaybeRefOrGetter<string>,
  choice: MaybeRefOrGetter<WheelChoice>,
) {
  return useQuery({
    queryKey: computed(() => [...keys.build(toValue(build)), 'wheel', toValue(choice)]),
    queryFn: () =>
      answer(
        api.GET('/api/builds/{build_id}/base_circle', {
          params: { path: { build_id: toValue(build) }, query: toValue(choice) },
        }),
      ),
    placeholderData: (before) => before,
  })
}

/** Degrees from a crank angle to the nearer end of a heel: below zero off the heel. */
export function marginAt(window: BaseCircle['windows'][number], crank: number): number {
  const half = (window.to_deg - window.from_deg) / 2
  const middle = (window.from_deg + window.to_deg) / 2
  const away = Math.abs(((((crank - middle + 360) % 720) + 720) % 720) - 360)
  return half - away
}

export const isDone = (stop: StopPlan['stops'][number], measured: string[]) =>
  stop.valves.every((v) => measured.includes(v.name))
