/** Builds and instruments as the server has them, and the writes that change them. */
import {
  useMutation,
  useQuery,
  useQueryClient,
  type QueryClient,
  type QueryKey,
} from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import type { paths } from '../api/schema'
import { SHOWN_FIRST } from '../api/early'
import { NODS } from '../kit/nods'
import { put } from '../kit/put'
import { answer, api, type Build, type BuildChange, type Instrument } from '../api/client'

export const keys = {
  builds: ['builds'] as const,
  build: (id: string) => ['build', id] as const,
  station: (build: string, valve: string) => ['station', build, valve] as const,
  ahead: (build: string, valve: string, rod: unknown) =>
    ['station', build, valve, 'ahead', rod] as const,
  rocker: (build: string, valve: string) => ['station', build, valve, 'rocker'] as const,
  motion: (build: string, valve: string) => ['station', build, valve, 'rocker', 'motion'] as const,
  heads: (build: string) => ['build', build, 'heads'] as const,
  decision: (build: string) => ['build', build, 'decision'] as const,
  orders: (build: string) => ['build', build, 'orders'] as const,
  sign_off: (build: string) => ['build', build, 'sign_off'] as const,
  instruments: ['instruments'] as const,
}

export const PAGE = 30

type BoardQuery = NonNullable<paths['/api/builds']['get']['parameters']['query']>
export type Shelf = NonNullable<BoardQuery['shelf']>
export type BoardSort = NonNullable<BoardQuery['sort']>
export type Waits = NonNullable<BoardQuery['waits']>

/** Which builds the board shows, and in which order. */
export interface Sought {
  search?: string
  shelf?: Shelf
  waits?: Waits | null
  person?: string
  sort?: BoardSort
}

/** A page of the board; asked for only where `wanted`. */
export function useBoard(
  sought: MaybeRefOrGetter<Sought>,
  page: MaybeRefOrGetter<number> = 0,
  limit = PAGE,
  wanted: MaybeRefOrGetter<boolean> = true,
) {
  return useQuery({
    enabled: computed(() => toValue(wanted)),
    queryKey: computed(() => [...keys.builds, toValue(sought), toValue(page), limit]),
    queryFn: () => {
      const query = { ...toValue(sought), offset: toValue(page) * limit, limit }
      return answer(api.GET('/api/builds', { params: { query } }))
    },
    placeholderData: (before) => before,
    refetchInterval: ({ state }) => (state.data?.builds.some((b) => b.pending) ? 1000 : false),
  })
}

const askBuild = (id: string) =>
  answer(api.GET('/api/builds/{build_id}', { params: { path: { build_id: id } } }))

const of = (build_id: string, valve_id = '') => ({ params: { path: { build_id, valve_id } } })
/** What the stations ask, each by the name it is kept under. */
export const asks = {
  station: (build: string, valve: string) =>
    answer(api.GET('/api/builds/{build_id}/valves/{valve_id}', of(build, valve))),
  rocker: (build: string, valve: string) =>
    answer(api.GET('/api/builds/{build_id}/valves/{valve_id}/rocker', of(build, valve))),
  motion: (build: string, valve: string) =>
    answer(api.GET('/api/builds/{build_id}/valves/{valve_id}/rocker/motion', of(build, valve))),
  heads: (build: string) => answer(api.GET('/api/builds/{build_id}/heads', of(build))),
  decision: (build: string) => answer(api.GET('/api/builds/{build_id}/decide', of(build))),
  orders: (build: string) => answer(api.GET('/api/builds/{build_id}/orders', of(build))),
  sign_off: (build: string) => answer(api.GET('/api/builds/{build_id}/sign_off', of(build))),
}
const RULES = {
  queryKey: ['rules'],
  queryFn: () => answer(api.GET('/api/rules')),
  staleTime: Infinity,
}
const INSTRUMENTS = {
  queryKey: keys.instruments,
  queryFn: () => answer(api.GET('/api/instruments')),
}
const OF_THE_SHOP = { rules: RULES, instruments: INSTRUMENTS }

/** Ask for what a page shows before its code is there; done when all of it was answered. */
export function askAhead(client: QueryClient, page: string, build: string, valve: string) {
  return Promise.all([
    client.prefetchQuery({ queryKey: keys.build(build), queryFn: () => askBuild(build) }),
    ...(SHOWN_FIRST[page] ?? []).map((what) =>
      client.prefetchQuery<unknown>(
        what === 'rules' || what === 'instruments'
          ? OF_THE_SHOP[what]
          : { queryKey: keys[what](build, valve), queryFn: () => asks[what](build, valve) },
      ),
    ),
  ])
}

/** A build; not `asking`, as whoever else asks for it has it. */
export function useBuild(id: MaybeRefOrGetter<string>, asking = true) {
  return useQuery({
    queryKey: computed(() => keys.build(toValue(id))),
    enabled: computed(() => asking && toValue(id) !== ''),
    queryFn: () => askBuild(toValue(id)),
  })
}

export const useInstruments = () => useQuery(INSTRUMENTS)

/** Layouts and preload habits; they change only with the program. */
export function useRules(enabled: MaybeRefOrGetter<boolean> = true) {
  return useQuery({ ...RULES, enabled: computed(() => toValue(enabled)) })
}

type Values = Omit<BuildChange, 'version'>
/**
 * What a build shall have. A field that holds several figures is told how it is made of the build
 * as it stands when its turn comes: what was typed just before it is in there by then.
 */
export type Wanted = {
  [Field in keyof Values]: Values[Field] | ((build: Build) => Values[Field])
}
const made = (wanted: Wanted, build: Build) =>
  Object.fromEntries(
    Object.entries(wanted).map(([field, value]) => [
      field,
      typeof value === 'function' ? value(build) : value,
    ]),
  ) as Values

/** Change a build as the page shows it; a refusal leaves what is kept untouched. */
export function useBuildChange(id: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const { data: shown } = useBuild(id, false)
  /** As the last change left it, or as it was read after a refusal. */
  let left: Build | undefined
  let refreshed: Promise<unknown> = Promise.resolve()
  const change = useMutation({
    // One after the other: each change is made on the version the one before it left.
    scope: { id: 'build-change' },
    mutationFn: async ({ on, wanted }: { on: Build; wanted: Wanted }) => {
      await refreshed
      const now = left?.id === on.id && left.version > on.version ? left : on
      return answer(
        api.PATCH('/api/builds/{build_id}', {
          params: { path: { build_id: on.id } },
          body: { ...made(wanted, now), version: now.version },
          // Typed and the page left at once: it is sent all the same.
          keepalive: true,
        }),
      )
    },
    onSuccess: (build) => {
      left = build
      keepBuild(client, build)
    },
    // After a refusal the next try is made on what is kept now.
    onError: (_, { on }) => {
      const key = keys.build(on.id)
      refreshed = client.invalidateQueries({ queryKey: key }).then(() => {
        left = client.getQueryData<Build>(key)
      })
    },
  })
  return async (wanted: Wanted) => {
    if (!shown.value) throw new Error(keys.build(toValue(id)).join(' '))
    return change.mutateAsync({ on: shown.value, wanted })
  }
}

/** Put a build where the pages read it; what is worked out from it is asked for again. */
export function keepBuild(client: QueryClient, build: Build, but?: QueryKey) {
  put(client, keys.build(build.id), build)
  // What stands below the build: its decision, checks, orders, heads.
  void client.invalidateQueries({
    queryKey: keys.build(build.id),
    predicate: (query) => query.queryKey.length > 2,
  })
  const known = JSON.stringify(but)
  void client.invalidateQueries({
    queryKey: ['station', build.id],
    predicate: (query) => JSON.stringify(query.queryKey) !== known,
  })
  void client.invalidateQueries({ queryKey: keys.builds })
  void client.invalidateQueries({ queryKey: NODS })
}

/** Keep the answer to a reading: its station or rocker, and the build it came with. */
export function keepReading<Answer extends { build: Build }>(
  client: QueryClient,
  key: QueryKey,
  kept: Answer,
) {
  const { build, ...own } = kept
  put(client, key, own)
  keepBuild(client, build, key)
}

export function useInstrumentKept() {
  const client = useQueryClient()
  return (instrument: Instrument) => {
    const known = client.getQueryData<Instrument[]>(keys.instruments) ?? []
    const others = known.filter((i) => i.id !== instrument.id)
    put(client, keys.instruments, [...others, instrument])
    void client.invalidateQueries({ queryKey: ['build'] })
    void client.invalidateQueries({ queryKey: ['station'] })
    void client.invalidateQueries({ queryKey: keys.builds })
  }
}
