/** What happens in the shop, heard as it happens: what a page shows of it is asked for again. */
import type { QueryClient, QueryKey } from '@tanstack/vue-query'
import { useThrottleFn } from '@vueuse/core'
import { hasSeen, thisPage } from '../api/client'
import { sharedEvents } from './events'

export interface Happened {
  what: 'build' | 'shop' | 'people' | 'gauges' | 'gauge' | 'all' | 'beat'
  id: string
  page: string
  /** How far the database had written, where a replica is read from. */
  written: string
  /** Of a gauge: its value; null when the cable is out. */
  value?: unknown
}
/** Who wants to hear more of it than that a page has to ask again. */
interface Listener {
  told: (told: Happened) => void
  lost?: () => void
}
const listeners = new Set<Listener>()
export function onTold(listener: Listener) {
  listeners.add(listener)
  return () => listeners.delete(listener)
}

const BOARD_EVERY_MS = 1_000
const EVERYTHING: QueryKey[] = [[]]

/** What may show something else now; a page keeps what it wrote itself. */
export function touched({ what, id, page }: Happened): QueryKey[] {
  if (what === 'beat' || (page !== '' && page === thisPage)) return []
  if (what === 'build') return [['build', id], ['station', id], ['builds'], ['nods']]
  if (what === 'shop') return [['instruments'], ['box'], ['build'], ['station']]
  if (what === 'gauges' || what === 'gauge') return []
  if (what === 'people') return [['here'], ['devices'], ['accounts'], ['nods']]
  return EVERYTHING
}

export function hearLive(client: QueryClient) {
  const again = (queryKey: QueryKey) =>
    client.invalidateQueries({ queryKey, refetchType: document.hidden ? 'none' : 'active' })
  /** A board is long, and a shop at work changes it all the time. */
  const board = useThrottleFn(() => again(['builds']), BOARD_EVERY_MS, true)
  const take = (data: string) => {
    const told = JSON.parse(data) as Happened
    hasSeen(told.written)
    for (const listener of listeners) listener.told(told)
    for (const key of touched(told)) void (key[0] === 'builds' ? board() : again(key))
  }
  const missed = () => take(JSON.stringify({ what: 'all', id: '', page: '', written: '' }))
  const lost = () => listeners.forEach((listener) => listener.lost?.())
  return sharedEvents('/api/live', take, lost, missed)
}
