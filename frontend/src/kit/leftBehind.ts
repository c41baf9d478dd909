/** What was refused after the page, or the view, that it was entered on was left. */
import { onScopeDispose, ref } from 'vue'
import type { Problem } from '../api/client'

interface LeftBehind {
  /** Where it was entered. */
  page: string
  /** What it was called there, where that is known. */
  what: string
  problem: Problem
}
export const leftBehind = ref<LeftBehind[]>([])

export function forget(one: LeftBehind) {
  leftBehind.value = leftBehind.value.filter((other) => other !== one)
}

/** Another page has been asked for: what is told here now, nobody reads. */
export const leaving = ref(false)

/** Whether what asks is still in sight. */
export function useInSight(): () => boolean {
  let alive = true
  onScopeDispose(() => (alive = false))
  return () => alive && !leaving.value
}

/** Tells a refusal to where it was entered, or, once that has gone, to every page. */
export function useTelling(what: () => string = () => '') {
  const inSight = useInSight()
  return (problem: Problem, page: string, tell: (problem: Problem) => void) => {
    if (inSight()) tell(problem)
    else leftBehind.value = [...leftBehind.value, { page, what: what(), problem }]
  }
}
