/** How a valve stands on the head map: its mark and its words, one set for drawing and page. */
import { t } from './words'
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
  waiting: t('not measured'),
  measuring: t('being measured'),
  measured: t('measured'),
  fits: t('fits the chosen rod'),
  limit: t('at the limit of the window'),
  outside: t('outside the window'),
  suspicious: t('suspicious'),
  odd: t('the odd one'),
}

const MEASURED = {
  waiting: t('not measured'),
  closing: t('being measured'),
  settled: t('zero lash known'),
  conflict: t('trials contradict'),
  outside: t('outside the window'),
} as const

/** How a valve's zero lash stands, in words. */
export function stateWords(valve: Valve): string {
  return valve.doubted ? t('not believable as measured') : MEASURED[valve.state]
}
