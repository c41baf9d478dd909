import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { useWho } from '../src/kit/who'

const at = (time: string) => vi.setSystemTime(new Date(`2026-05-${time}`))
const { answered, known, named } = useWho()

beforeEach(() => {
  vi.useFakeTimers()
  localStorage.clear()
})
afterEach(() => vi.useRealTimers())

test('a day asks once, and the next one again', () => {
  at('04T09:00')
  expect(known()).toBeNull()
  answered('Ada')
  at('04T23:59')
  expect(known()).toBe('Ada')
  at('05T08:00')
  expect(known()).toBeNull()
})

test('midnight interrupts nobody who is still measuring', async () => {
  at('04T19:30')
  answered('Ada')
  for (const time of ['04T22:00', '05T00:30', '05T03:45']) {
    at(time)
    expect(known()).toBe('Ada')
    expect(await named()).toBe('Ada')
  }
  at('05T09:00') // slept, or another hand
  expect(known()).toBeNull()
})

test('a clock that was years ahead does not keep the question away', async () => {
  vi.setSystemTime(new Date('2031-01-01T10:00'))
  answered('Ada')
  await named()
  at('04T09:00')
  expect(known()).toBeNull()
})
