/** Five minutes through the real stations, on a practice engine with nothing wrong. */
import { t } from '../../kit/words'
import { createGlobalState, useStorage } from '@vueuse/core'
import { computed } from 'vue'

export interface TourStep {
  station: 'base_circle' | 'zero_lash' | 'heads' | 'decide' | 'ending'
  title: string
  words: string
}

export const TOUR: TourStep[] = [
  {
    station: 'base_circle',
    title: t('Turn to a stop'),
    words:
      `${t('A lifter must be all the way down before a rod is felt. The plan names the crank angle:')} ` +
      t('turn there with the slider, or drag the cam round.'),
  },
  {
    station: 'zero_lash',
    title: t('Feel a rod'),
    words:
      `${t('Put the rod into 1I and feel it. Type its turns at the station and what you felt:')} ` +
      t('L loose, Z zero, T tight.'),
  },
  {
    station: 'zero_lash',
    title: t('Read the gap'),
    words:
      `${t('Is it loose? Try feelers until one drags, and type that gap with the next reading. The')} ` +
      t('station names the setting to try, until the valve is settled. Then 1E the same way.'),
  },
  {
    station: 'heads',
    title: t('Look at them together'),
    words: t('Every valve stands on its head here; one that is not like the others is named.'),
  },
  {
    station: 'decide',
    title: t('Decide'),
    words: t('The rods each kind wants, how far inside its window, and with what chance.'),
  },
  {
    station: 'decide',
    title: t('Buy'),
    words: t('On the bench: “Buy what is decided”. A real engine gets its order sheet at Order.'),
  },
  {
    station: 'ending',
    title: t('Run it'),
    words: t('On the bench: “Run it”. The engine shows what was true, and what it cost.'),
  },
]

/** Where the tour stands: on which exercise, at which step; nothing while none is under way. */
export const useTour = createGlobalState(() => {
  const at = useStorage('vivid-arm.tour', { exercise: '', step: 0 })
  const step = computed(() => (at.value.exercise ? TOUR[at.value.step] : undefined))
  return {
    at,
    step,
    begin: (exercise: string) => (at.value = { exercise, step: 0 }),
    leave: () => (at.value = { exercise: '', step: 0 }),
    go: (by: number) =>
      (at.value = {
        ...at.value,
        step: Math.min(Math.max(at.value.step + by, 0), TOUR.length - 1),
      }),
  }
})
