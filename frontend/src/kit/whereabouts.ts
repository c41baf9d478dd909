/** Who is where, on a shop with accounts: each page says what it shows, and sees the others. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn, useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { answer, api, type Here } from '../api/client'
import { me } from './me'

const SAID_EVERY_MS = 20_000
const SETTLED_MS = 120
const HERE = ['here']

/** The rod's turns as the page in view shows them; null where it shows none. */
export const shownTurns = ref<number | null>(null)

/** Devices in use but this one. */
export function useOthers() {
  const { data } = useQuery({
    queryKey: HERE,
    enabled: computed(() => Boolean(me.value.name)),
    queryFn: () => answer(api.GET('/api/here')),
    staleTime: SAID_EVERY_MS,
    refetchInterval: SAID_EVERY_MS,
  })
  return computed<Here[]>(() =>
    me.value.name ? (data.value ?? []).filter((seen) => !seen.mine) : [],
  )
}
export const called = (seen: Here) => [seen.name, seen.label].filter(Boolean).join(', ')

/** Say where this page is, as long as it is in sight. */
export function sayWhere() {
  const route = useRoute()
  const client = useQueryClient()
  const sight = useDocumentVisibility()
  const place = computed(() => ({
    station: String(route.name ?? ''),
    build_id: String(route.params.buildId ?? '') || null,
    valve_id: String(route.params.valveId ?? '') || null,
    turns: shownTurns.value,
  }))
  const say = useDebounceFn(async () => {
    if (!me.value.name || sight.value !== 'visible' || !route.name) return
    const seen = await answer(api.POST('/api/here', { body: place.value })).catch(() => null)
    if (seen) client.setQueryData(HERE, seen)
  }, SETTLED_MS)
  watch([place, sight, () => me.value.name], () => void say(), { immediate: true })
  useIntervalFn(() => void say(), SAID_EVERY_MS)
}
