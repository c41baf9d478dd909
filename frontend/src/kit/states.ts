/** How a valve stands on the head map: its mark and its words, one set for drawing and page. */
import type { HeadValve, Valve } from '../api/client'

type State = HeadValve['state']

export const MARKS: Record<State, string> = {
  waiting: '',
  measuring: '…',
  measured: '●',
  fits: '✓',
  limit: '≈',
  outside: '✕',
  suspicious: '!',
  odd: '◆',
}

export const WORDS: Record<State, string> = {
  waiting: 'not measured',
  measuring: 'being measured',
  measured: 'measured',
  fits: 'fits the chosen rod',
  limit: 'at the limit of the window',
  outside: 'outside the window',
  suspicious: 'suspicious',
  odd: 'the odd one',
}

const MEASURED = {
  waiting: 'not measured',
  closing: 'being measured',
  settled: 'zero lash known',
  conflict: 'trials contradict',
  outside: 'outside the window',
} as const

/** How a valve's zero lash stands, in words. */
export function stateWords(valve: Valve): string {
  return valve.doubted ? 'not believable as measured' : MEASURED[valve.state]
}
