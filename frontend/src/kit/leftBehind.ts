/** What was refused after the page, or the view, that it was entered on was left. */
import { onScopeDispose, ref } from 'vue'
import type { Problem } from '../api/client'
import { pressEnded } from './press'

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

/** Whether what was in sight (`place`) when this is called still is when it is asked. */
export function useInSight(place: () => string = () => ''): () => () => boolean {
  let alive = true
  onScopeDispose(() => (alive = false))
  return () => {
    const from = place()
    return () => alive && !leaving.value && place() === from
  }
}

/**
 * Called as something is entered: gives what tells its refusal. Where that was entered is still in
 * sight it is given back; else it is told on every page.
 */
export function useTelling(place: () => string = () => '', what: () => string = () => '') {
  const inSight = useInSight(place)
  return () => {
    const [seen, page] = [inSight(), location.pathname]
    return (problem: Problem): Problem | null => {
      const left = { page, what: what(), problem }
      const tell = () => (leftBehind.value = [...leftBehind.value, left])
      if (!seen()) {
        tell()
        return null
      }
      void pressEnded().then(() => seen() || tell())
      return problem
    }
  }
}
