/** One valve's rocker: what the server knows, the batch to move inside, and what is sent to it. */
import { t } from '../../kit/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import {
  answer,
  api,
  type KeptRocker,
  type MarkIn,
  type Photo,
  type Problem,
} from '../../api/client'
import { usePrefs } from '../../kit/prefs'
import { onKept, usePost } from '../../kit/useOutbox'
import { asks, keepReading, keys } from '../builds'

/** What was seen and set at a try; what is left out was not seen, or stands as before. */
export type Seen = Partial<Omit<MarkIn, 'key' | 'by'>>
export type KeepTry = (seen: Seen) => Promise<Problem | null>

const BLANK: Omit<MarkIn, 'key' | 'by'> = {
  inboard: '',
  outboard: '',
  width: '',
  measured_from: 'middle',
  off: null,
  at_rest: false,
  place: null,
  wide: null,
  across: '',
  sink: '',
  closed_end: null,
  angle: '',
  angle_by: 'inclinometer',
  heights: '',
  lift: '',
  real_lift: '',
  pairs: '',
  rod: '',
  shim: '',
  screw: '',
  photo: null,
  unit: 'in',
  reason: '',
}

onKept(['mark', 'mark_void', 'mark_restore'], (entry, kept: KeptRocker, client) =>
  keepReading(client, keys.rocker(entry.build, kept.valve.id), kept),
)

/** `view`: which entries are in sight; a refusal is told where it was entered. */
export function useRocker(
  build: MaybeRefOrGetter<string>,
  valve: MaybeRefOrGetter<string>,
  view: () => string,
) {
  const { unit } = usePrefs()
  const query = useQuery({
    queryKey: computed(() => keys.rocker(toValue(build), toValue(valve))),
    queryFn: () => asks.rocker(toValue(build), toValue(valve)),
  })
  const motion = useQuery({
    queryKey: computed(() => keys.motion(toValue(build), toValue(valve))),
    queryFn: () => asks.motion(toValue(build), toValue(valve)),
    placeholderData: (before) => before,
  })

  const here = () => ({ build: toValue(build), valve: toValue(valve) })
  const post = usePost(() => `${toValue(build)} ${toValue(valve)} ${view()}`)
  function mark(seen: Seen) {
    const body = { ...BLANK, unit: unit.value, ...seen }
    const told = [body.inboard, body.outboard].filter(Boolean).join(' to ')
    return post({ kind: 'mark', words: t('mark {told}', { told }).trim(), ...here(), body })
  }
  function strike(reading_id: number, reason: string) {
    const words = t('a try struck out: {reason}', { reason })
    return post({ kind: 'mark_void', words, ...here(), body: { reading_id, reason } })
  }
  function restore(reading_id: number) {
    const words = t('a try counts again')
    return post({ kind: 'mark_restore', words, ...here(), body: { reading_id } })
  }
  async function photo(file: File): Promise<Photo> {
    const form = new FormData()
    form.append('id', crypto.randomUUID())
    form.append('file', file)
    return answer(
      api.POST('/api/builds/{build_id}/photos', {
        params: { path: { build_id: toValue(build) } },
        body: form as unknown as { id: string; file: string },
        bodySerializer: () => form,
      }),
    )
  }
  return { query, motion, mark, strike, restore, photo }
}
