/** Writing figures the way the server does: inches and thou, or millimetres. */
import { decimal, locale, t } from './words'
import type { Convention, Feel } from '../api/client'

export type Unit = 'in' | 'mm'

const MM = 25.4
/** A half is rounded away from zero, as the server does it. */
const fixed = (value: number, places: number) =>
  decimal((value + Math.sign(value) * 1e-9).toFixed(places))

/** A figure with its sign as it is printed: a true minus, and none before nothing. */
export function signed(value: number, places: number): string {
  const text = fixed(value, places)
  return text.replace('-', /[1-9]/.test(text) ? '−' : '')
}
export const degrees = (value: number, places = 1) => `${signed(value, places)}°`

export function length(inches: number, unit: Unit): string {
  return unit === 'mm' ? `${signed(inches * MM, 2)} mm` : `${signed(inches, 4)} in`
}

/** A length without its unit, for fields and places where the unit stands beside it. */
export function bareLength(inches: number, unit: Unit): string {
  return unit === 'mm' ? fixed(inches * MM, 2) : fixed(inches, 4)
}

/** A small length: thou up to an inch. */
export function small(inches: number, unit: Unit): string {
  if (unit === 'mm' || Math.abs(inches) >= 1) return length(inches, unit)
  return `${signed(inches * 1000, 1).replace(/[.,]0$/, '')} thou`
}

/** How well something is known: two places are enough. */
export function within(inches: number, unit: Unit): string {
  if (unit === 'mm') return `± ${fixed(inches * MM, 2)} mm`
  const thou = inches * 1000
  return `± ${thou < 10 ? decimal(String(Number(thou.toFixed(1)))) : Math.round(thou)} thou`
}

/** A small length without its unit, signed as it is: thou or millimetres. */
export function bareSmall(inches: number, unit: Unit): string {
  if (unit === 'mm') return signed(inches * MM, 2)
  return signed(inches * 1000, 1).replace(/[.,]0$/, '')
}

/** Two small lengths with one unit: 50 to 100 thou. */
export function smallSpan(low: number, high: number, unit: Unit): string {
  const first = small(low, unit).split(' ')[0]
  return t('{first} to {high}', { first, high: small(high, unit) })
}

/** A thread's pitch: as many places as a rod's turns carry into its length. */
export function pitch(inches: number, unit: Unit): string {
  const figure = unit === 'mm' ? fixed(inches * MM, 4) : fixed(inches, 6)
  return `${figure.replace(/(\d\d)0+$/, '$1')} ${unit}`
}

/** Put figures into a sentence of the server's. */
export function fill(
  text: string,
  lengths: Record<string, number>,
  smalls: Record<string, number>,
  unit: Unit,
  pitches: Record<string, number> = {},
): string {
  return text.replace(/\{(\w+)\}/g, (whole, name: string) => {
    const long = lengths[name]
    if (long !== undefined) return length(long, unit)
    const thread = pitches[name]
    if (thread !== undefined) return pitch(thread, unit)
    const short = smalls[name]
    return short !== undefined ? small(short, unit) : whole
  })
}

/** A probability; never a certainty. */
export const percent = (p: number) => (p > 0.99 ? '> 99 %' : `${Math.floor(p * 100)} %`)

const EIGHTHS = ['', '1/8', '1/4', '3/8', '1/2', '5/8', '3/4', '7/8']

/** Turns in eighths, as counted at the bench: 10 1/4. */
export function turnsWords(turns: number): string {
  const eighths = Math.round(turns * 8)
  const whole = Math.floor(eighths / 8)
  const part = EIGHTHS[eighths % 8] ?? ''
  if (!part) return String(whole)
  return whole ? `${whole} ${part}` : part
}

// A formatter takes longer to make than a page has for an answer: each is made once.
const TIME = new Intl.DateTimeFormat(locale, { hour: '2-digit', minute: '2-digit' })
const DAY = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short' })
const DAY_AND_YEAR = new Intl.DateTimeFormat(locale, {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
})

export const clock = (iso: string): string => TIME.format(new Date(iso))

export function day(iso: string): string {
  const then = new Date(iso)
  const thisYear = then.getFullYear() === new Date().getFullYear()
  return (thisYear ? DAY : DAY_AND_YEAR).format(then)
}

/** The time of today, or day and time: as the browser's own country writes them. */
export function when(iso: string): string {
  const today = new Date(iso).toDateString() === new Date().toDateString()
  return today ? clock(iso) : `${day(iso)}, ${clock(iso)}`
}

export const CONVENTIONS: Record<Convention, string> = {
  centre: t('centre length'),
  theoretical: t('theoretical overall'),
  measured: t('measured overall'),
  gauge: t('gauge length'),
}
export const CONVENTION_LIST = (Object.keys(CONVENTIONS) as Convention[]).map((value) => ({
  value,
  words: CONVENTIONS[value],
}))

/** Feels in the trade's words. */
export const FEELS: Record<Feel, string> = {
  loose: t('loose'),
  zero: t('zero'),
  tight: t('tight'),
  no_lash: t('no lash'),
  barely: t('barely loose'),
  quite: t('quite loose'),
}
