/** The decision, the rod and the shop's box, as the server has them. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { answer, api, type BoxRod, type RodPlanFigures, type Build } from '../../api/client'
import { put } from '../../kit/put'
import { asks, keys, type Wanted } from '../builds'

export function useDecision(build: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => keys.decision(toValue(build))),
    queryFn: () => asks.decision(toValue(build)),
    placeholderData: (before) => before,
    retry: false,
  })
}

/** Whether the rods on the engine fit, where preload was read without their length. */
export function useInHand(build: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => [...keys.build(toValue(build)), 'in-hand']),
    queryFn: () =>
      answer(
        api.GET('/api/builds/{build_id}/in-hand', {
          params: { path: { build_id: toValue(build) } },
        }),
      ),
    placeholderData: (before) => before,
  })
}

export function useRod(build: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => [...keys.build(toValue(build)), 'rod']),
    queryFn: () =>
      answer(
        api.GET('/api/builds/{build_id}/rod', { params: { path: { build_id: toValue(build) } } }),
      ),
    placeholderData: (before) => before,
  })
}

export const planOf = (build: Build): RodPlanFigures => ({
  strategy: 'kinds',
  tolerance_in: null,
  reach_turns: null,
  block: null,
  head: null,
  parts: {},
  lengths_in: [],
  grown_in: {},
  ...build.plan,
})
/** A change of the plan of rods. */
export const planWith = (change: (plan: RodPlanFigures) => Partial<RodPlanFigures>): Wanted => ({
  plan: (build) => ({ ...planOf(build), ...change(planOf(build)) }),
})

export function useBox() {
  const client = useQueryClient()
  const key = ['box']
  const query = useQuery({ queryKey: key, queryFn: () => answer(api.GET('/api/box')) })
  function keep(rod: BoxRod) {
    const others = (client.getQueryData<BoxRod[]>(key) ?? []).filter((r) => r.id !== rod.id)
    const all = [...others, rod].sort((a, b) => a.length_in - b.length_in)
    put(client, key, all)
    void client.invalidateQueries({ queryKey: ['build'] })
  }
  return { ...query, keep }
}
