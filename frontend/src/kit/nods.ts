/** Valves that wait for a builder's nod, on a shop with accounts whose owner wants it so. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api } from '../api/client'
import { me } from './me'

const key = ['nods']

export function useNods() {
  const { data } = useQuery({
    queryKey: key,
    enabled: computed(() => Boolean(me.value.name)),
    queryFn: () => answer(api.GET('/api/nods')),
  })
  return { waiting: computed(() => data.value ?? []), key }
}
