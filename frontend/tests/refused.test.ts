import { describe, expect, it } from 'vitest'
import type { Problem } from '../src/api/client'
import { mended, refusedBy } from '../src/kit/refused'

const refusal = (received: string): Problem => ({
  type: 'about:blank',
  title: 'Out of range',
  status: 422,
  code: 'out_of_range',
  detail: `${received} is outside.`,
  context: {},
  received,
})

describe('which entry a refusal is of', () => {
  it.each([
    ['9800', '9800', true],
    [' 9800 ', '9800', true],
    ['9.85', '9800', false],
    ['9.825 9800, 9.850', '9800', true],
    ['9.825 19800', '9800', false],
    ['-10 0.120; -5 x', '-5 x', true],
    ['-10 0.120; -5 7070', '7070', true],
    ['', '9800', false],
  ])('%s, refused for %s', (text, received, itIs) => {
    const said = refusedBy('entry', refusal(received), text)
    expect(said).toEqual(itIs ? { 'aria-invalid': 'true', 'aria-describedby': 'entry-why' } : {})
  })
  it('is the only one where there is no other', () => {
    expect(refusedBy('entry', refusal('x'))).toHaveProperty('aria-invalid')
    expect(refusedBy('entry', null)).toEqual({})
  })
})

describe('what was refused is mended', () => {
  it.each([
    ['9800', '9800', '9.8 in', '9.8 in'],
    ['10.3', '10.3', '10 1/4', '10 1/4'],
    ['9.825, 9800 9.85', '9800', '9.8 in', '9.825, 9.8in 9.85'],
    ['-10 7070; -5 0.102', '7070', '70.7 thou', '-10 70.7thou; -5 0.102'],
    ['17400 7400', '7400', '7.4 in', '17400 7.4in'],
    ['-10 0.1; -5 x', '-5 x', '-5 0.1', '-10 0.1; -5 0.1'],
    ['0.062', '7070', '70.7 thou', '0.062'],
  ])('%s, refused for %s', (text, received, by, becomes) => {
    expect(mended(text, refusal(received), by)).toBe(becomes)
  })
})
