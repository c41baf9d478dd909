/** Checks and signatures of a build; every write answers with all of them. */
import { t } from '../../kit/words'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'
import {
  answer,
  api,
  problemOf,
  type FindingIn,
  type SignOff,
  type Problem,
} from '../../api/client'
import { put } from '../../kit/put'
import { onKept, useOutbox } from '../../kit/useOutbox'
import { asks, keys } from '../builds'

onKept(['finding'], (entry, found: SignOff, client) =>
  put(client, keys.sign_off(entry.build), found),
)

export function useSignOff(build: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const key = computed(() => keys.sign_off(toValue(build)))
  const { entries, post } = useOutbox()
  /** What was found and is not kept yet, or was refused. */
  const unsent = computed(() =>
    entries.value
      .filter((e) => e.kind === 'finding' && e.build === toValue(build))
      .map(({ body, problem, refused }) => ({ ...(body as FindingIn), problem, refused })),
  )
  const path = () => ({ build_id: toValue(build) })
  const problem = ref<Problem | null>(null)
  const query = useQuery({
    queryKey: key,
    queryFn: () => asks.sign_off(toValue(build)),
  })
  const write = useMutation({
    scope: { id: 'sign_off' },
    retry: (count, error) => count < 3 && problemOf(error).status === 0,
    mutationFn: (call: () => Promise<SignOff>) => call(),
    onSuccess: (finish) => {
      problem.value = null
      put(client, key.value, finish)
    },
    onError: (error) => (problem.value = problemOf(error)),
  })
  const run = (call: () => Promise<SignOff>) =>
    write.mutateAsync(call).then(
      () => true,
      () => false,
    )
  return {
    ...query,
    problem,
    unsent,
    /** Keep what was found; its refusal, where that is still seen `here`. */
    find: (title: string, body: Omit<FindingIn, 'key' | 'by'>, here: () => boolean) => {
      const what = body.yes == null ? body.text : body.yes ? t('yes') : t('no')
      const words = `${title} ${body.valve}: ${what}`
      return post({ kind: 'finding', words, build: toValue(build), body }, { here })
    },
    sign: (body: { key: string; by: string; reason: string }) =>
      run(() =>
        answer(api.POST('/api/builds/{build_id}/signatures', { params: { path: path() }, body })),
      ),
  }
}
