import { describe, expect, it } from 'vitest'
import {
  planOf,
  tagsOf,
  windowWords,
  zeroWords,
  type LadderTrial,
} from '../src/drawings/ladder/plan'

const SPAN = { low: 8.4, high: 8.8 }
const plan = planOf('in', 800, SPAN, 'full')
const trial = (number: number, length: number): LadderTrial => ({
  number,
  length,
  feel: 'loose',
  gap: null,
  conflict: false,
  pending: false,
})

describe('the ladder’s plan', () => {
  it('puts the ends of its span at the ends of the drawing', () => {
    expect(plan.x(SPAN.low)).toBe(0)
    expect(plan.x(SPAN.high)).toBeCloseTo(800, 9)
    expect(plan.x(8.6)).toBeCloseTo(400, 9)
  })
  it('stacks band, rule and lifter without overlap', () => {
    for (const room of ['full', 'low', 'compact'] as const) {
      const p = planOf('in', 800, SPAN, room)
      expect(p.band).toBeLessThan(p.top)
      expect(p.top).toBeLessThan(p.ruleBottom)
      expect(p.ruleBottom).toBeLessThan(p.lane)
      expect(p.lane).toBeLessThan(p.height)
    }
  })
  it('moves a tag to another row when it would cover one', () => {
    const near = tagsOf(plan, [trial(1, 8.5), trial(2, 8.501), trial(3, 8.7)], [])
    const [one, two, three] = near.map((tag) => tag.y)
    expect(two).not.toBe(one)
    expect(three).toBe(one)
    expect(near.map((tag) => tag.x)).toEqual([8.5, 8.501, 8.7].map(plan.x))
  })
  it('names a place only where there is one', () => {
    const tags = tagsOf(
      plan,
      [],
      [
        ['next', 'nächste', 8.6],
        ['expected', 'erwartet', null],
      ],
    )
    expect(tags.map((t) => [t.key, t.text])).toEqual([['next', 'nächste']])
  })
  it('says zero lash with what it is known to', () => {
    expect(zeroWords(null, null, 'in')).toBe('')
    expect(zeroWords(8.586, 0.0022, 'in')).toBe('zero lash 8.5860 in ± 2.2 thou')
    expect(zeroWords(8.586, null, 'mm')).toBe('zero lash 218.08 mm')
    const lifter = { low: 0.05, high: 0.1, target: 0.07, travel: 0.2 }
    expect(windowWords(lifter, 'in')).toBe('window 50 to 100 thou')
  })
})
