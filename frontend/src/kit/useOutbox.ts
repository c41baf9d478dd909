/** The one outbox of this browser, bound to the server, to the pages and to its other tabs. */
import type { QueryClient } from '@tanstack/vue-query'
import { createGlobalState, useDebounceFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, answer, problemOf, type Problem } from '../api/client'
import type { paths } from '../api/schema'
import { useInSight } from './leftBehind'
import { createOutbox, type Entering, type Entry } from './outbox'
import { pressEnded } from './press'
import { useWho } from './who'

const BUILD = '/api/builds/{build_id}'
const VALVE = `${BUILD}/valves/{valve_id}` as const

/** Every keyed write of the stations, by kind. */
const URLS = {
  trial: `${VALVE}/trials`,
  measure: `${VALVE}/measures`,
  count_back: `${VALVE}/count-backs`,
  recount: `${VALVE}/recounts`,
  void: `${VALVE}/voids`,
  restore: `${VALVE}/restores`,
  move: `${VALVE}/moves`,
  mark: `${VALVE}/marks`,
  mark_void: `${VALVE}/marks/voids`,
  mark_restore: `${VALVE}/marks/restores`,
  note: `${BUILD}/notes`,
  finding: `${BUILD}/findings`,
} as const satisfies Record<string, keyof paths>
export type Kind = keyof typeof URLS
type Post<K extends Kind> = paths[(typeof URLS)[K]] extends {
  post: { requestBody: { content: { 'application/json': infer B } } }
}
  ? B
  : never

const LIMIT_MS = 10_000
const AGAIN_MS = 3_000
const SHOWN_AFTER_MS = 80

export interface Write<K extends Kind> {
  kind: K
  words: string
  build: string
  valve?: string
  body: Omit<Post<K>, 'key' | 'by'>
  inches?: number | null
}

/** What a page does with the answer to a write, by kind. */
type Keep = (entry: Entry, data: never, client: QueryClient) => void
const keepers = new Map<string, Keep>()
export function onKept<K extends Kind>(kinds: K[], keep: Keep) {
  for (const kind of kinds) keepers.set(kind, keep)
}

async function send(entry: Entry): Promise<{ data: unknown } | { problem: Problem }> {
  try {
    const url = URLS[entry.kind as Kind]
    const path = { build_id: entry.build, valve_id: entry.valve ?? '' }
    const options = { params: { path }, body: entry.body, signal: AbortSignal.timeout(LIMIT_MS) }
    return { data: await answer(api.POST(url, options as never)) }
  } catch (error) {
    await pressEnded()
    return { problem: problemOf(error) }
  }
}

let turn: Promise<unknown> = Promise.resolve()
/** One tab at a time; where the browser has no locks, one write at a time in this tab. */
function alone<T>(work: () => Promise<T>): Promise<T> {
  if (navigator.locks) return navigator.locks.request('vivid-arm-outbox', work) as Promise<T>
  const mine = turn.then(work, work)
  turn = mine.catch(() => undefined)
  return mine
}

export const useOutbox = createGlobalState(() => {
  const entries = ref<Entry[]>([])
  const channel = new BroadcastChannel('vivid-arm-outbox')
  let client: QueryClient | null = null
  const { known, named } = useWho()
  /** Kept by the server and on their way out of the box: no reading is seen twice. */
  const gone = new Set<string>()

  const box = createOutbox({
    send,
    known,
    named,
    alone,
    kept(entry, data) {
      gone.add(entry.key)
      entries.value = entries.value.filter((e) => e.key !== entry.key)
      const keep = keepers.get(entry.kind)
      if (client && keep) keep(entry, data as never, client)
      else stale(entry.build)
      channel.postMessage({ kept: entry.build })
    },
    changed() {
      void soon()
      channel.postMessage({})
    },
  })
  function stale(build: string) {
    void client?.invalidateQueries({ queryKey: ['build', build] })
    void client?.invalidateQueries({ queryKey: ['station', build] })
    void client?.invalidateQueries({ queryKey: ['builds'] })
  }
  async function look() {
    entries.value = (await box.all()).filter((e) => !gone.has(e.key))
  }
  /** What is answered at once is never shown as waiting: drawing it would hold its answer up. */
  const soon = useDebounceFn(look, SHOWN_AFTER_MS, { maxWait: SHOWN_AFTER_MS })
  channel.onmessage = (message: MessageEvent<{ kept?: string }>) => {
    void look()
    if (message.data.kept) stale(message.data.kept)
  }

  /** Keep a write: the problem when the server refused it. One it did not answer waits here. */
  function post<K extends Kind>(write: Write<K>, entering: Entering): Promise<Problem | null> {
    const draft = {
      kind: write.kind,
      words: write.words,
      build: write.build,
      valve: write.valve ?? null,
      inches: write.inches ?? null,
      body: { ...write.body, key: crypto.randomUUID() },
    }
    return box.post(draft, entering)
  }

  /** Look after the box as long as the page lives. */
  function start(queries: QueryClient) {
    client = queries
    void look().then(() => box.start())
    setInterval(() => {
      if (entries.value.some((e) => !e.refused)) void box.flush()
    }, AGAIN_MS)
    addEventListener('online', () => void box.flush())
    addEventListener('beforeunload', (event) => {
      if (entries.value.some((e) => e.unstored)) event.preventDefault()
    })
  }

  const waiting = computed(() => entries.value.filter((e) => !e.refused && e.problem))
  const refused = computed(() => entries.value.filter((e) => e.refused))
  return { entries, waiting, refused, post, start, retry: box.retry, drop: box.drop }
})

/**
 * Keep writes from a page. A refusal is given back where the page still shows what it showed
 * (`place`) when the write was entered; else it stays in the box, in sight of every page.
 */
export function usePost(place: () => string = () => '') {
  const { post } = useOutbox()
  const inSight = useInSight(place)
  return <K extends Kind>(write: Write<K>, safe?: () => void) =>
    post(write, { safe, here: inSight() })
}
