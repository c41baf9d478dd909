/** What a page asks for again when something happened, and which answers are new enough. */
import { describe, expect, it } from 'vitest'
import { isLater, thisPage } from '../src/api/client'
import { touched, type Happened } from '../src/kit/live'

const told = (what: Happened['what'], more: Partial<Happened> = {}) =>
  touched({ what, id: '', page: '', written: '', ...more })

describe('what happened', () => {
  it('touches the build it was about, and the lists it stands in', () => {
    expect(told('build', { id: 'b1' })).toEqual([
      ['build', 'b1'],
      ['station', 'b1'],
      ['builds'],
      ['nods'],
    ])
  })
  it('is known already where this page wrote it, and news where another did', () => {
    expect(told('build', { id: 'b1', page: thisPage })).toEqual([])
    expect(told('build', { id: 'b1', page: 'another' })).not.toEqual([])
  })
  it('is everything where nobody knows what was missed, and nothing on a beat', () => {
    expect(told('all')).toEqual([[]])
    expect(told('beat')).toEqual([])
    expect(told('gauges', { page: 'another' })).toEqual([])
  })
})

describe('a position in the log', () => {
  it.each([
    ['0/2', '0/1', true],
    ['0/1', '0/1', false],
    ['1/0', '0/FFFFFFFF', true],
    ['A/0', '9/FFFFFFFF', true],
    ['0/1000000', '0/FFFFFF', true],
    ['0/1', '', true],
  ])('%s is later than %s: %s', (one, other, later) => {
    expect(isLater(one, other)).toBe(later)
  })
})
