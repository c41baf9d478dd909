import { describe, expect, it } from 'vitest'
import type { Motion } from '../src/api/client'
import { frameAt, placeIn, rowAt } from '../src/drawings/frame'
import { graduations, keepSpan, rowsFor, spanOf } from '../src/drawings/scale'

describe('the axis', () => {
  it('holds every point with its margin and is never narrower than asked', () => {
    expect(spanOf([7.3, 7.5], 0.1, 0.2)).toEqual({ low: 7.2, high: 7.6 })
    const least = spanOf([7.4], 0, 0.5)
    expect(least.high - least.low).toBeCloseTo(0.5)
  })

  it('stays while it serves', () => {
    const old = { low: 7, high: 8 }
    expect(keepSpan(old, { low: 7.05, high: 7.9 }, 0.02)).toBe(old)
    expect(keepSpan(old, { low: 6.9, high: 7.9 }, 0.02)).toEqual({ low: 6.9, high: 7.9 })
    expect(keepSpan(old, { low: 7.4, high: 7.5 }, 0.02)).toEqual({ low: 7.4, high: 7.5 })
  })

  it.each(['in', 'mm'] as const)('puts every tick where its label says (%s)', (unit) => {
    const ticks = graduations({ low: 7.31, high: 7.52 }, 900, unit)
    const labelled = ticks.filter((t) => t.label)
    expect(labelled.length).toBeGreaterThan(3)
    for (const tick of labelled)
      expect(Number(tick.label) / (unit === 'mm' ? 25.4 : 1)).toBeCloseTo(tick.at, 3)
    expect(ticks.every((t) => t.at >= 7.31 - 1e-9 && t.at <= 7.52 + 1e-9)).toBe(true)
  })

  it('lets no label touch another while there are rows', () => {
    const items = [10, 20, 30, 200].map((x) => ({ x, width: 40 }))
    const rows = rowsFor(items, 3)
    for (const [i, a] of items.entries())
      for (const [j, b] of items.entries())
        if (i < j && rows[i] === rows[j]) expect(Math.abs(a.x - b.x)).toBeGreaterThanOrEqual(43)
  })
})

describe('a frame of the mechanism', () => {
  const batch = {
    tip: 'roller', stud: true, arm_in: 1.4, cup_in: 0.9, bend_deg: 12, tip_radius_in: 0.25,
    stem_in: 0.34, seat_x_in: -2.2, seat_y_in: -7, lifter_deg: 0, offset_in: 0, axis_deg: 0,
    film_in: 0, least_in: 0, valve_lifts_in: [], stocked_in: [],
    lobe_in: [0, 0.15, 0.3],
    settings: { setting_in: [7.2, 7.4], fulcrum_in: [1.35, 1.35], height_in: [0, 0.1] },
    valve_in: [[0, 0.24, 0.47], [0, 0.25, 0.49]],
    contact_in: [[0.01, 0.04, 0.02], [0.03, 0.05, 0.01]],
    arm_deg: [[-8, 2, 11], [-7, 3, 12]],
    ratio: [[1.6, 1.6, 1.5], [1.7, 1.6, 1.5]],
  } as unknown as Motion // prettier-ignore

  it('is the server’s own figure at a setting and a lift it computed', () => {
    const frame = frameAt(batch, 7.4, 0.5)
    expect(frame).toMatchObject({ lobe: 0.15, valve: 0.25, contact: 0.05, arm: 3, ratio: 1.6 })
  })

  it('stands half way between two settings, and holds at the ends', () => {
    expect(frameAt(batch, 7.3, 1).valve).toBeCloseTo(0.48)
    expect(frameAt(batch, 9, 1).valve).toBeCloseTo(0.49)
    expect(placeIn([7.2, 7.4], 7.25)).toBeCloseTo(0.25)
    const [closed, half, full] = rowAt([[0, 1, 2], [2, 3, 4]], 0.5) // prettier-ignore
    expect([closed, half, full]).toEqual([1, 2, 3])
  })

  it('keeps the arm and the cup at their lengths from the fulcrum', () => {
    for (const share of [0, 0.3, 0.77, 1]) {
      const { fulcrum, tip, cup } = frameAt(batch, 7.33, share)
      expect(Math.hypot(tip[0] - fulcrum[0], tip[1] - fulcrum[1])).toBeCloseTo(1.4, 9)
      expect(Math.hypot(cup[0] - fulcrum[0], cup[1] - fulcrum[1])).toBeCloseTo(0.9, 9)
    }
  })
})
