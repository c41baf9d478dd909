/** One valve's station: what the server knows, and what is sent to it. */
import { t } from '../../kit/words'
import { useQuery, useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Build,
  type Change,
  type KeptStation,
  type MeasureIn,
  type Problem,
  type Station,
  type TrialIn,
  type ValveChange,
} from '../../api/client'
import { FEELS } from '../../kit/format'
import { useTelling } from '../../kit/leftBehind'
import { onKept, useOutbox, usePost } from '../../kit/useOutbox'
import { asks, keepReading, keys } from '../builds'

/** Put a station's answer where the pages read it. */
function keep(client: QueryClient, kept: KeptStation) {
  keepReading(client, keys.station(kept.build_id, kept.valve.id), kept)
}
onKept(
  ['trial', 'measure', 'count_back', 'recount', 'void', 'restore', 'move'],
  (_, kept: KeptStation, client) => keep(client, kept),
)

/** `view`: what of the station is in sight; a refusal is told where it was entered. */
export function useStation(
  build: MaybeRefOrGetter<string>,
  valve: MaybeRefOrGetter<string>,
  view: () => string,
) {
  const client = useQueryClient()
  const { entries, retry, drop } = useOutbox()
  const place = () => `${toValue(build)} ${toValue(valve)} ${view()}`
  const post = usePost(place)
  const tell = useTelling(place)
  const path = () => ({ build_id: toValue(build), valve_id: toValue(valve) })
  const here = () => ({ build: toValue(build), valve: toValue(valve) })
  const query = useQuery({
    queryKey: computed(() => keys.station(toValue(build), toValue(valve))),
    queryFn: () => asks.station(toValue(build), toValue(valve)),
  })
  const unsent = computed(() => entries.value.filter((e) => e.valve === toValue(valve)))

  /** Trials that are not answered yet: what is foreseen holds for the log before them. */
  let underway = 0
  /** `foreseen`: what the station says once this is kept; it stands there until it is. */
  async function trial(
    body: Omit<TrialIn, 'key' | 'by'>,
    inches: number | null,
    foreseen: Station | null = null,
  ) {
    const words = `${body.setting}, ${FEELS[body.feel]}`
    const alone = !underway++ && !unsent.value.length
    const early = foreseen && alone ? beforehand(foreseen) : null
    try {
      return await seen(post({ kind: 'trial', words, ...here(), body, inches }, early?.show))
    } finally {
      underway--
      early?.takeBack()
    }
  }
  /** A station shown before its reading is kept, and taken back where it still stands after. */
  function beforehand(foreseen: Station) {
    const key = keys.station(toValue(build), toValue(valve))
    const before = client.getQueryData<Station>(key)
    let shown: Station | undefined
    const stands = (one?: Station) => one !== undefined && client.getQueryData(key) === one
    return {
      show() {
        if (stands(before)) shown = client.setQueryData<Station>(key, foreseen)
      },
      takeBack() {
        if (stands(shown)) client.setQueryData(key, before)
      },
    }
  }
  function countBack(turns: string, change: Change = {}) {
    const words = t('counted back {turns}', { turns })
    const rod = client.getQueryData<Build>(keys.build(toValue(build)))?.instrument
    const shown = { instrument_id: rod?.id ?? null, instrument_version: rod?.version ?? null }
    const body = { turns, sure: false, ...shown, ...change }
    return seen(post({ kind: 'count_back', words, ...here(), body }))
  }
  /** After a conflict the page shows what is there now. */
  async function seen(posted: Promise<Problem | null>) {
    const problem = await posted
    if (problem?.status === 409)
      void client.invalidateQueries({ queryKey: keys.build(toValue(build)) })
    return problem
  }
  function measure(body: Omit<MeasureIn, 'key' | 'by'>) {
    const words = `${body.method.replace('_', ' ')} ${body.reading}`
    return seen(post({ kind: 'measure', words, ...here(), body }))
  }
  function recount(way: Station['recounts'][number]) {
    const { count_id, since, words } = way
    return post({ kind: 'recount', words, ...here(), body: { count_id, since } })
  }
  function strike(reading_id: number, reason: string) {
    const words = t('a reading struck out: {reason}', { reason })
    return post({ kind: 'void', words, ...here(), body: { reading_id, reason } })
  }
  function restore(reading_id: number) {
    return post({
      kind: 'restore',
      words: t('a reading counts again'),
      ...here(),
      body: { reading_id },
    })
  }
  function move(reading_id: number, to: string, name: string) {
    const words = t('a reading moved to {name}', { name })
    return post({ kind: 'move', words, ...here(), body: { reading_id, to } })
  }

  const expect = (version: number, expected: string, unit: 'in' | 'mm') =>
    changeValve({ version, expected, unit })
  const stem = (version: number, inches: number | null) =>
    changeValve({ version, stem: inches === null ? '' : `${inches} in`, unit: 'in' })
  async function changeValve(body: ValveChange): Promise<Problem | null> {
    const url = '/api/builds/{build_id}/valves/{valve_id}'
    const told = tell()
    try {
      const sent = api.PATCH(url, { params: { path: path() }, body, keepalive: true })
      keep(client, await answer(sent))
      return null
    } catch (error) {
      return told(problemOf(error))
    }
  }

  return {
    query,
    unsent,
    retry,
    drop,
    trial,
    measure,
    countBack,
    recount,
    strike,
    restore,
    move,
    expect,
    stem,
  }
}
