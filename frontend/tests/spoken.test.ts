import { describe, expect, it } from 'vitest'
import { spoken } from '../src/stations/zero_lash/useBenchMode'

describe('what is read out', () => {
  it.each([
    ['Set the rod to 10 3/8 turns', 'Set the rod to 10 and 3 eighths turns'],
    ['5 1/2 turns', '5 and a half turns'],
    ['1/4 turn', 'a quarter turn'],
    ['About 7.3425 in so far.', 'About 7 point 3 4 2 5 so far.'],
    ['Next: turn on 84°, then 2E', 'Next: turn on 84°, then 2 exhaust'],
    ['16I ± 3 thou', '16 intake plus or minus 3 thou'],
  ])('%s', (written, said) => expect(spoken(written)).toBe(said))
})
