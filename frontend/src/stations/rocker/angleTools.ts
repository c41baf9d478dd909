/** What the arm's angle can be read with; two heights are typed as such, not in degrees. */
import { t } from '../../kit/words'
export const ANGLE_TOOLS = [
  { value: 'inclinometer', words: t('Inclinometer') },
  { value: 'square', words: t('Square') },
  { value: 'phone', words: t('Phone’s level') },
  { value: 'laser', words: t('Two lasers') },
  { value: 'heights', words: t('Two heights') },
] as const satisfies { value: string; words: string }[]
export type AngleTool = (typeof ANGLE_TOOLS)[number]['value']
export const HEIGHTS_EXAMPLE = t('0.250 0.276 over 1.5')
