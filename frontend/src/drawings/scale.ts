/** One true axis of length: inches to pixels, and the graduations of a steel rule. */
import { decimal } from '../kit/words'
import type { Unit } from '../kit/format'

/** Settings this near to the narrowest mark, inches: none of them is worth an order over another. */
export const FLAT_IN = 0.001

export interface Span {
  low: number
  high: number
}

export interface Tick {
  at: number
  size: 'minor' | 'middle' | 'major'
  label: string
}

const STEPS = {
  in: [0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1],
  mm: [0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 25],
} as const
const INCHES_PER = { in: 1, mm: 1 / 25.4 } as const

/** Span of all points with a margin, at least `least` wide. */
export function spanOf(points: number[], margin: number, least: number): Span {
  const low = Math.min(...points) - margin
  const high = Math.max(...points) + margin
  const lack = Math.max(0, least - (high - low)) / 2
  return { low: low - lack, high: high + lack }
}

/** The span in view stays while it still serves, so that the drawing does not drift under a turn. */
export function keepSpan(old: Span | undefined, wanted: Span, margin: number): Span {
  if (!old) return wanted
  const serves =
    old.low <= wanted.low + margin / 2 &&
    old.high >= wanted.high - margin / 2 &&
    old.high - old.low < 1.4 * (wanted.high - wanted.low)
  return serves ? old : wanted
}

function stepFor(pixelsPerInch: number, unit: Unit, leastPixels: number): number {
  const steps = STEPS[unit]
  const fits = steps.find((s) => s * INCHES_PER[unit] * pixelsPerInch >= leastPixels)
  return fits ?? steps[steps.length - 1] ?? 1
}

/** Graduations over a span: fine lines, and labels where there is room for them. */
export function graduations(span: Span, width: number, unit: Unit): Tick[] {
  const perInch = width / (span.high - span.low)
  const minor = stepFor(perInch, unit, 5)
  const middle = stepFor(perInch, unit, 22)
  const major = stepFor(perInch, unit, 62)
  const digits = (String(major).split('.')[1] ?? '').length
  const factor = INCHES_PER[unit]
  const first = Math.ceil(span.low / factor / minor)
  const last = Math.floor(span.high / factor / minor)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, k) => {
    const value = (first + k) * minor
    const on = (step: number) => Math.abs(value / step - Math.round(value / step)) < 1e-6
    const size = on(major) ? 'major' : on(middle) ? 'middle' : 'minor'
    return {
      at: value * factor,
      size,
      label: size === 'major' ? decimal(value.toFixed(digits)) : '',
    }
  })
}

/** The first row, from the top, in which a label of this width touches no other. */
export function rowsFor(items: { x: number; width: number }[], rows: number): number[] {
  const ends: number[] = Array.from({ length: rows }, () => -Infinity)
  const order = items.map((_, i) => i).sort((a, b) => (items[a]?.x ?? 0) - (items[b]?.x ?? 0))
  const result: number[] = items.map(() => 0)
  for (const i of order) {
    const item = items[i]
    if (!item) continue
    const left = item.x - item.width / 2
    const free = ends.findIndex((end) => end + 3 <= left)
    const row = free >= 0 ? free : ends.indexOf(Math.min(...ends))
    ends[row] = item.x + item.width / 2
    result[i] = row
  }
  return result
}
