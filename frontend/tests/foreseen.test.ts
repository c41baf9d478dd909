import { describe, expect, it } from 'vitest'
import { isOf } from '../src/stations/zero_lash/useForeseen'

const TOOL = { instrument_id: 'rod', instrument_version: 2 }
const ROD = { turns: 9.375, crank_deg: 90 }
const TRIAL = {
  setting: '9 3/8', feel: 'zero' as const, gap: '', unit: 'in' as const, reason: '', sure: false,
  crank_deg: 90, ...TOOL,
} // prettier-ignore

describe('what is foreseen of a trial', () => {
  it('is of the rod that was asked about', () => {
    expect(isOf(TRIAL, ROD, TOOL)).toBe(true)
    expect(isOf({ ...TRIAL, crank_deg: undefined }, { ...ROD, crank_deg: null }, TOOL)).toBe(true)
  })
  it.each([
    { setting: '9 1/2' },
    { gap: '0.040' },
    { crank_deg: 180 },
    { crank_deg: null },
    { instrument_id: 'other' },
    { instrument_version: 3 },
  ])('is of no other: %o', (other) => {
    expect(isOf({ ...TRIAL, ...other }, ROD, TOOL)).toBe(false)
  })
})
