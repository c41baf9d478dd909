/** Valves that wait for a builder's nod, on a shop with accounts whose owner wants it so. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api } from '../api/client'
import { me } from './me'

export const NODS = ['nods']

export function useNods() {
  const { data } = useQuery({
    queryKey: NODS,
    enabled: computed(() => Boolean(me.value.name)),
    queryFn: () => answer(api.GET('/api/nods')),
  })
  return computed(() => data.value ?? [])
}
