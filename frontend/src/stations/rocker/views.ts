/** What the arm view shows of the mechanism. */
import { t } from '../../kit/words'

export const VIEWS = [
  { value: 'rocker', words: t('Rocker') },
  { value: 'tip', words: t('Tip') },
  { value: 'whole', words: t('Whole') },
] as const satisfies { value: string; words: string }[]
export type View = (typeof VIEWS)[number]['value']
