/** The trade's words, each in a sentence or two; a small drawing of each stands beside it. */
import { t } from './words'
import { createGlobalState } from '@vueuse/core'
import { ref } from 'vue'

export const GLOSSARY = {
  heel: [
    t('Heel, base circle'),
    t(
      'The round back of the lobe. With the lifter on it the valve is shut and nothing moves: only there is a rod felt.',
    ),
  ],
  'zero lash': [
    t('Zero lash'),
    t(
      'The rod length at which all play is gone and nothing is pressed yet. Preload and lash count from here.',
    ),
  ],
  preload: [
    t('Preload'),
    t(
      'How far the rod pushes a hydraulic lifter’s plunger down from its ring, with the valve shut.',
    ),
  ],
  r0: [
    t('R0, the ratio near closed'),
    t(
      'How fast the gap at the tip closes as the rod gets longer, with the valve just shut. A usual rocker gives 1.07 to 1.12 of its catalogue ratio there. Gap ÷ R0 is what the rod is short.',
    ),
  ],
  'k = 2': [
    '± (k = 2)',
    t(
      'Twice the standard uncertainty: the true figure lies within it about 19 times in 20, if everything stated is so.',
    ),
  ],
  'worst miss': [
    t('Worst miss'),
    t(
      'How far the preload of the worst valve lies from the target, with the rods of this way of buying.',
    ),
  ],
  theoretical: [
    t('Theoretical overall'),
    t('Over the full spheres of both ends, as if no oil hole were cut into them.'),
  ],
  measured: [
    t('Measured overall'),
    t('What a caliper reads over both ends: the oil holes take the tips off.'),
  ],
  gauge: [
    t('Gauge length'),
    t('Between two circles of a stated diameter on the balls, as a length gauge touches them.'),
  ],
  school: [
    t('School'),
    t(
      'A way the trade goes about it. Of stopping the crank: which valves are read at which stop. Of the mark: square at half lift, or the sweep in the tip’s middle.',
    ),
  ],
  'closed end': [
    t('Closed end'),
    t(
      'The end of the mark where the roller stands with the valve shut. It tells whether the fulcrum is too low or too high.',
    ),
  ],
  from: [
    t('From'),
    t(
      'Where the edges of the mark are measured from: the tip’s middle (outboard is +), or its inboard edge.',
    ),
  ],
  angle: [
    t('Sign of the angle'),
    t(
      'The arm against a right angle to the stem, at half lift: + with the tip end high, − with it low.',
    ),
  ],
  inferred: [
    t('Inferred'),
    t(
      'Not measured: taken from the valves of its kind that were, with an uncertainty that says so.',
    ),
  ],
} as const satisfies Record<string, readonly [name: string, words: string]>
export type Term = keyof typeof GLOSSARY

/** Which word is looked up; the whole list where it is empty, shut where it is null. */
export const useGlossary = createGlobalState(() => {
  const shown = ref<Term | '' | null>(null)
  return { shown, lookUp: (term: Term | '') => (shown.value = term) }
})
