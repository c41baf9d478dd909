/** Practice engines as the server has them: the course, one exercise, its valve trains, its end. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'
import {
  answer,
  api,
  problemOf,
  type DeedIn,
  type Exercise,
  type Got,
  type Problem,
} from '../../api/client'
import { put } from '../../kit/put'
import { keys } from '../builds'

const of = (id: string) => ['practice', id] as const

export function useCourse() {
  return useQuery({ queryKey: ['practice'], queryFn: () => answer(api.GET('/api/practice')) })
}

export function useExercise(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => of(toValue(id))),
    enabled: computed(() => toValue(id) !== ''),
    queryFn: () =>
      answer(
        api.GET('/api/practice/{exercise_id}', {
          params: { path: { exercise_id: toValue(id) } },
        }),
      ),
  })
}

export function useTrain(id: MaybeRefOrGetter<string>, valve: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => [...of(toValue(id)), 'train', toValue(valve)]),
    enabled: computed(() => toValue(id) !== '' && toValue(valve) !== ''),
    placeholderData: (before) => before,
    queryFn: () =>
      answer(
        api.GET('/api/practice/{exercise_id}/trains/{valve}', {
          params: { path: { exercise_id: toValue(id), valve: toValue(valve) } },
        }),
      ),
  })
}

export type Bench = ReturnType<typeof useBench>
export type Act = Bench['deed']

/** Everything that is done at the bench, one after the other; the last thing it gave. */
export function useBench(id: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const problem = ref<Problem | null>(null)
  const got = ref<Got | null>(null)
  const path = () => ({ path: { exercise_id: toValue(id) } })
  const kept = (exercise: Exercise) => {
    put(client, of(toValue(id)), exercise)
    void client.invalidateQueries({ queryKey: [...of(toValue(id)), 'train'] })
  }
  const write = useMutation({
    scope: { id: 'practice' },
    mutationFn: (call: () => Promise<Exercise>) => call(),
    onSuccess: (exercise) => {
      problem.value = null
      kept(exercise)
    },
    onError: (error) => {
      got.value = null
      problem.value = problemOf(error)
    },
  })
  const run = (call: () => Promise<Exercise>) =>
    write.mutateAsync(call).then(
      () => true,
      () => false,
    )
  return {
    problem,
    got,
    busy: write.isPending,
    deed: (name: DeedIn['name'], how: Partial<DeedIn['how']> = {}) => {
      const body = { key: crypto.randomUUID(), name, how } as DeedIn
      return run(async () => {
        const done = await answer(
          api.POST('/api/practice/{exercise_id}/deeds', { params: path(), body }),
        )
        got.value = done.got
        return done.exercise
      })
    },
    hint: () =>
      run(async () => {
        const hint = await answer(api.POST('/api/practice/{exercise_id}/hints', { params: path() }))
        return hint.exercise
      }),
    name: (kinds: Exercise['named']) =>
      run(() =>
        answer(api.PUT('/api/practice/{exercise_id}/named', { params: path(), body: { kinds } })),
      ),
    buy: (rods: Record<string, number>) =>
      run(() =>
        answer(api.PUT('/api/practice/{exercise_id}/rods', { params: path(), body: { rods } })),
      ),
    /** The rods that the decision has, by valve. */
    decided: async (buildId: string) => {
      const decision = await client.fetchQuery({
        queryKey: [...keys.build(buildId), 'decision', 'practice'],
        queryFn: () =>
          answer(
            api.GET('/api/builds/{build_id}/decide', { params: { path: { build_id: buildId } } }),
          ),
        staleTime: 0,
      })
      return Object.fromEntries((decision?.rows ?? []).map((row) => [row.name, row.length_in]))
    },
  }
}

export function useEnding(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => [...of(toValue(id)), 'ending']),
    retry: false,
    queryFn: () =>
      answer(
        api.POST('/api/practice/{exercise_id}/ending', {
          params: { path: { exercise_id: toValue(id) } },
        }),
      ),
  })
}
