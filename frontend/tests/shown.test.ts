import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import type { Motion, Rocker } from '../src/api/client'
import { useShown } from '../src/stations/rocker/useShown'

const lobe = Array.from({ length: 61 }, (_, i) => (0.4 * i) / 60)
const row = (of: (lift: number) => number) => [lobe.map(of), lobe.map(of)]
const batch = {
  tip: 'roller', stud: true, arm_in: 1.4, cup_in: 0.9, bend_deg: 12, tip_radius_in: 0.25,
  lifter_deg: 0, seat_x_in: -2.2, seat_y_in: -7, lobe_in: lobe, stocked_in: [], film_in: 0,
  settings: {
    setting_in: [7.3, 7.4], fulcrum_in: [1.4, 1.4], height_in: [0, 0], lift_in: [0.6, 0.6],
    inboard_in: [0, 0], outboard_in: [0.05, 0.05],
  },
  arm_deg: row((lift) => 10 - 50 * lift), valve_in: row((lift) => 1.5 * lift),
  contact_in: row((lift) => lift / 10), ratio: row(() => 1.5),
} as unknown as Motion // prettier-ignore
const arm = { valve: { id: 'v' }, now_in: 7.35 } as unknown as Rocker

const scope = effectScope()
beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
})

it('moves at every frame, is read a dozen times a second, and stands as it is read', () => {
  const shown = scope.run(() => useShown(ref(arm), ref(batch)))
  if (!shown) throw new Error('no scope')
  const drawn = new Set<number>()
  const said = new Set<number>()
  shown.play()
  for (let frame = 0; frame < 60; frame++) {
    vi.advanceTimersByTime(16)
    drawn.add(shown.frame.value?.valve ?? 0)
    said.add(shown.read.value?.valve ?? 0)
  }
  expect(drawn.size).toBeGreaterThan(55)
  expect(said.size).toBeGreaterThan(9)
  expect(said.size).toBeLessThan(16)
  vi.advanceTimersByTime(16)
  expect(shown.read.value).not.toEqual(shown.frame.value)
  shown.play()
  expect(shown.read.value).toEqual(shown.frame.value)
  shown.stop(0.25)
  expect(shown.read.value?.valve).toBeCloseTo(0.15)
  expect(shown.frame.value).toEqual(shown.read.value)
  shown.toHalf()
  expect(shown.read.value?.valve).toBeCloseTo(0.3)
  expect(shown.frame.value).toEqual(shown.read.value)
})
