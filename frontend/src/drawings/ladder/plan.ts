/** What the parts of the ladder share: what is drawn, and where an inch stands on the screen. */
import { t } from '../../kit/words'
import type { Feel } from '../../api/client'
import { length, small, smallSpan, type Unit } from '../../kit/format'
import { rowsFor, type Span } from '../scale'

export interface LadderTrial {
  number: number
  length: number
  feel: Feel
  gap: number | null
  conflict: boolean
  pending: boolean
}
export interface LadderMeasure {
  number: number
  length: number
  spread: number
  odd: boolean
}
export interface LadderNotch {
  axis: number
  label: number
  inside: boolean
  best: boolean
}
export interface LadderLifter {
  low: number
  high: number
  target: number
  travel: number
}

export const TAG = 26
export const RULE = 54
export const LANE = 44

/** Where the parts stand: heights of the drawing in pixels, and inches along it. */
export interface Plan {
  unit: Unit
  width: number
  span: Span
  /** Upper edge of the closing band, of the rule, lower edge of the rule, top of the lifter. */
  band: number
  top: number
  ruleBottom: number
  lane: number
  height: number
  perInch: number
  /** Rows of tags above the rule. */
  rows: number
  x: (inches: number) => number
}

/** How much room the ladder takes: all of it, less where something stands above it, or a strip. */
export type Room = 'full' | 'low' | 'compact'
const ROOMS = {
  full: { top: 142, band: 92, gap: 40, foot: 46, rows: 3 },
  low: { top: 114, band: 64, gap: 28, foot: 36, rows: 2 },
  compact: { top: 14, band: 6, gap: 40, foot: 46, rows: 0 },
}

export function planOf(unit: Unit, width: number, span: Span, room: Room): Plan {
  const { top, band, gap, foot, rows } = ROOMS[room]
  const ruleBottom = top + RULE
  const lane = ruleBottom + gap
  const perInch = width / (span.high - span.low)
  return {
    unit,
    width,
    span,
    band,
    top,
    ruleBottom,
    lane,
    height: lane + LANE + foot,
    rows,
    perInch,
    x: (inches) => (inches - span.low) * perInch,
  }
}

/** A paper tag above the rule: a trial's, or one that names a place. */
export interface Tag {
  key: string
  x: number
  y: number
  width: number
  trial: LadderTrial | null
  text: string
}

/** Tags of the trials and of the places named, in rows so that none covers another. */
export function tagsOf(
  plan: Plan,
  trials: LadderTrial[],
  places: [key: string, words: string, at: number | null][],
): Tag[] {
  const items = [
    ...trials.map((trial) => ({
      key: `trial-${trial.number}`,
      x: plan.x(trial.length),
      width: 46,
      trial,
      text: String(trial.number),
    })),
    ...places.flatMap(([key, text, at]) =>
      at === null ? [] : [{ key, x: plan.x(at), width: 20 + 7 * text.length, trial: null, text }],
    ),
  ]
  const rows = rowsFor(items, plan.rows)
  return items.map((item, i) => ({ ...item, y: 8 + (rows[i] ?? 0) * (TAG + 2) }))
}

export const windowWords = (lifter: LadderLifter, unit: Unit) =>
  t('window {low}', { low: smallSpan(lifter.low, lifter.high, unit) })

export function zeroWords(zero: number | null, spread: number | null, unit: Unit): string {
  if (zero === null) return ''
  const known = spread === null ? '' : ` ± ${small(spread, unit)}`
  return t('zero lash {zero}{known}', { zero: length(zero, unit), known })
}
