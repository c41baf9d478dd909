/** The states a lifter can have while measuring. */
import { t } from '../../kit/words'
export const LIFTERS = [
  { value: 'solid', words: t('Solid checking lifter') },
  { value: 'bled', words: t('Hydraulic, bled down') },
  { value: 'pumped', words: t('Hydraulic, pumped up') },
] as const
