/** How a valve stands on the head map: its mark and its words, one set for drawing and page. */
import type { HeadValve } from '../api/client'

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
