import { describe, expect, it } from 'vitest'
import {
  bareSmall,
  degrees,
  fill,
  length,
  pitch,
  small,
  smallSpan,
  turnsWords,
  within,
} from '../src/kit/format'

describe('figures as they are written', () => {
  // An inch is 25.4 mm exactly (NIST SP 811, B.8).
  it.each([
    [7.4, 'in', '7.4000 in'],
    [7.4, 'mm', '187.96 mm'],
    [0.00004, 'in', '0.0000 in'],
  ] as const)('length %f in %s', (inches, unit, words) => expect(length(inches, unit)).toBe(words))

  it.each([
    [0.07, 'in', '70 thou'],
    [0.0625, 'in', '62.5 thou'],
    [0.07, 'mm', '1.78 mm'],
    [-0.012, 'in', '−12 thou'],
    [1.2, 'in', '1.2000 in'],
  ] as const)('small %f in %s', (inches, unit, words) => expect(small(inches, unit)).toBe(words))

  it('never writes a minus before nothing', () => {
    expect(bareSmall(-0.00001, 'in')).toBe('0')
    expect(degrees(-0.04)).toBe('0.0°')
    expect(degrees(-3.06)).toBe('−3.1°')
  })
  it('says how well something is known with two places', () => {
    expect(within(0.0024, 'in')).toBe('± 2.4 thou')
    expect(within(0.0126, 'in')).toBe('± 13 thou')
  })
  it('writes a span with one unit', () => expect(smallSpan(0.05, 0.1, 'in')).toBe('50 to 100 thou'))

  it.each([
    [0, '0'],
    [0.375, '3/8'],
    [10.25, '10 1/4'],
    [4, '4'],
    [9.999, '10'],
  ] as const)('counts %f turns as the bench does', (turns, words) =>
    expect(turnsWords(turns)).toBe(words),
  )

  // A twenty-fourth of an inch a turn, 10 1/2 turns on 7.15: what stands there adds up.
  it.each([
    ['in', 0.0001],
    ['mm', 0.01],
  ] as const)('a sum with a pitch adds up as it is printed in %s', (unit, place) => {
    const [closed, grown] = [7.15, 7.15 + 10.5 / 24]
    const said = fill('{c} + 10.5 × {p} = {l}', { c: closed, l: grown }, {}, unit, { p: 1 / 24 })
    const [c = 0, turns = 0, p = 0, l = 0] = (said.match(/[\d.]+/g) ?? []).map(Number)
    expect(c).toBeGreaterThan(0)
    expect(Math.abs(c + turns * p - l)).toBeLessThanOrEqual(place)
  })

  it.each([
    [0.05, 'in', '0.05 in'],
    [1 / 24, 'in', '0.041667 in'],
    [1.25 / 25.4, 'mm', '1.25 mm'],
    [1 / 24, 'mm', '1.0583 mm'],
    [0.1, 'in', '0.10 in'],
  ] as const)('a pitch of %f in %s', (inches, unit, words) =>
    expect(pitch(inches, unit)).toBe(words),
  )

  it('fills only the names it was given', () => {
    expect(fill('{z} less {m} of {q}', { z: 7.3 }, { m: 0.004 }, 'in')).toBe(
      '7.3000 in less 4 thou of {q}',
    )
  })
})
