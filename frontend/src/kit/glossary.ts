/** The trade's words, each in a sentence or two; a small drawing of each stands beside it. */
import { createGlobalState } from '@vueuse/core'
import { ref } from 'vue'

export const GLOSSARY = {
  heel: [
    'Heel, base circle',
    'The round back of the lobe. With the lifter on it the valve is shut and nothing moves: only there is a rod felt.',
  ],
  'zero lash': [
    'Zero lash',
    'The rod length at which all play is gone and nothing is pressed yet. Preload and lash count from here.',
  ],
  preload: [
    'Preload',
    'How far the rod pushes a hydraulic lifter’s plunger down from its ring, with the valve shut.',
  ],
  r0: [
    'R0, the ratio near closed',
    'How fast the gap at the tip closes as the rod gets longer, with the valve just shut. A usual rocker gives 1.07 to 1.12 of its catalogue ratio there. Gap ÷ R0 is what the rod is short.',
  ],
  'k = 2': [
    '± (k = 2)',
    'Twice the standard uncertainty: the true figure lies within it about 19 times in 20, if everything stated is so.',
  ],
  'worst miss': [
    'Worst miss',
    'How far the preload of the worst valve lies from the target, with the rods of this way of buying.',
  ],
  theoretical: [
    'Theoretical overall',
    'Over the full spheres of both ends, as if no oil hole were cut into them.',
  ],
  measured: [
    'Measured overall',
    'What a caliper reads over both ends: the oil holes take the tips off.',
  ],
  gauge: [
    'Gauge length',
    'Between two circles of a stated diameter on the balls, as a length gauge touches them.',
  ],
  school: [
    'School',
    'A way the trade goes about it. Of stopping the crank: which valves are read at which stop. Of the mark: square at half lift, or the sweep in the tip’s middle.',
  ],
  'closed end': [
    'Closed end',
    'The end of the mark where the roller stands with the valve shut. It tells whether the fulcrum is too low or too high.',
  ],
  from: [
    'From',
    'Where the edges of the mark are measured from: the tip’s middle (outboard is +), or its inboard edge.',
  ],
  angle: [
    'Sign of the angle',
    'The arm against a right angle to the stem, at half lift: + with the tip end high, − with it low.',
  ],
  inferred: [
    'Inferred',
    'Not measured: taken from the valves of its kind that were, with an uncertainty that says so.',
  ],
} as const satisfies Record<string, readonly [name: string, words: string]>
export type Term = keyof typeof GLOSSARY

/** Which word is looked up; the whole list where it is empty, shut where it is null. */
export const useGlossary = createGlobalState(() => {
  const shown = ref<Term | '' | null>(null)
  return { shown, lookUp: (term: Term | '') => (shown.value = term) }
})
