/** The crank wheel of a build for the valves chosen to be measured. */
import { useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
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

interface Chosen extends WheelChoice {
  school: StopPlan['school'] | null
}
const USUAL: Chosen = { selection: 'all', cylinder: 1, closing: 'third_left', school: null }

/** Which valves and which school were chosen for a build; kept in this browser. */
export function useChosen(build: MaybeRefOrGetter<string>) {
  const all = useStorage<Record<string, Chosen>>('vivid-arm.stops-chosen', {})
  const chosen = computed(() => ({ ...USUAL, ...all.value[toValue(build)] }))
  const part = <K extends keyof Chosen>(name: K) =>
    computed<Chosen[K]>({
      get: () => chosen.value[name],
      set: (value) =>
        (all.value = { ...all.value, [toValue(build)]: { ...chosen.value, [name]: value } }),
    })
  return {
    selection: part('selection'),
    cylinder: part('cylinder'),
    closing: part('closing'),
    school: part('school'),
  }
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
