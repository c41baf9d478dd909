/** Keeping a set-up: each change at once, each refusal beside the field it is about. */
import { ref, type MaybeRefOrGetter } from 'vue'
import { problemOf, type Problem } from '../api/client'
import { useTelling } from '../kit/leftBehind'
import { useBuildChange, type Wanted } from './builds'

export function useKeeper(buildId: MaybeRefOrGetter<string>) {
  const change = useBuildChange(buildId)
  const tell = useTelling()
  const refusals = ref<Record<string, Problem>>({})

  function settle(wanted: Wanted, problem: Problem | null) {
    const names = Object.keys(wanted)
    const others = Object.entries(refusals.value).filter(([name]) => !names.includes(name))
    const own = problem ? names.map((name) => [name, problem] as const) : []
    refusals.value = Object.fromEntries([...others, ...own])
  }

  async function keep(wanted: Wanted): Promise<boolean> {
    const told = tell()
    try {
      await change(wanted)
      settle(wanted, null)
      return true
    } catch (thrown) {
      const problem = told(problemOf(thrown))
      if (problem) settle(wanted, problem)
      return false
    }
  }

  function refusalOf(...fields: string[]): Problem | null {
    const field = fields.find((name) => refusals.value[name])
    return field ? (refusals.value[field] ?? null) : null
  }

  return { keep, refusalOf }
}

export type Keeper = ReturnType<typeof useKeeper>
