/** The states a lifter can have while measuring. */
import { t } from '../../kit/words'
export const LIFTERS = [
  { value: 'solid', label: t('Solid checking lifter') },
  { value: 'bled', label: t('Hydraulic, bled down') },
  { value: 'pumped', label: t('Hydraulic, pumped up') },
] as const
