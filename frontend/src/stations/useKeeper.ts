/** Keeping a set-up: each change at once, each refusal beside the field it is about. */
import { ref, type MaybeRefOrGetter } from 'vue'
import { problemOf, type BuildChange, type Problem } from '../api/client'
import { useBuildChange } from './builds'

export type Values = Omit<BuildChange, 'version'>

export function useKeeper(buildId: MaybeRefOrGetter<string>) {
  const change = useBuildChange(buildId)
  const refusals = ref<Record<string, Problem>>({})

  function settle(values: Values, problem: Problem | null) {
    const names = Object.keys(values)
    const others = Object.entries(refusals.value).filter(([name]) => !names.includes(name))
    const own = problem ? names.map((name) => [name, problem] as const) : []
    refusals.value = Object.fromEntries([...others, ...own])
  }

  async function keep(values: Values): Promise<boolean> {
    try {
      await change(values)
      settle(values, null)
      return true
    } catch (thrown) {
      settle(values, problemOf(thrown))
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
