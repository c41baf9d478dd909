/** Checks and signatures of a build; every write answers with all of them. */
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
import { onKept, useOutbox } from '../../kit/useOutbox'
import { asks, keys } from '../builds'

onKept(['finding'], (entry, found: SignOff, client) =>
  client.setQueryData(keys.sign_off(entry.build), found),
)

export function useSignOff(build: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const key = computed(() => keys.sign_off(toValue(build)))
  const { post } = useOutbox()
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
      client.setQueryData(key.value, finish)
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
    find: async (body: Omit<FindingIn, 'key' | 'by'>) => {
      const what = body.yes == null ? body.text : body.yes ? 'yes' : 'no'
      const words = `${body.name} ${body.valve}: ${what}`
      problem.value = await post({ kind: 'finding', words, build: toValue(build), body })
      return problem.value === null
    },
    sign: (body: { key: string; by: string; reason: string }) =>
      run(() =>
        answer(api.POST('/api/builds/{build_id}/signatures', { params: { path: path() }, body })),
      ),
  }
}
