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
import { keys } from '../builds'

export function useSignOff(build: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const key = computed(() => [...keys.build(toValue(build)), 'finish'])
  const path = () => ({ build_id: toValue(build) })
  const problem = ref<Problem | null>(null)
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET('/api/builds/{build_id}/sign_off', { params: { path: path() } })),
  })
  const write = useMutation({
    scope: { id: 'finish' },
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
    find: (body: FindingIn) =>
      run(() =>
        answer(api.POST('/api/builds/{build_id}/findings', { params: { path: path() }, body })),
      ),
    sign: (body: { key: string; by: string; reason: string }) =>
      run(() =>
        answer(api.POST('/api/builds/{build_id}/signatures', { params: { path: path() }, body })),
      ),
  }
}
