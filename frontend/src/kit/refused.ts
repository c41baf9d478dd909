/** A refused entry stays in its field, marked and chosen, so that the next key types over it. */
import type { Problem } from '../api/client'

/** Whether a refusal is of what stands in a field, all of it or one figure of several. */
const isOf = ({ received }: Problem, text: string) =>
  [[text], text.split(';'), text.split(/[\s;,]+/)].flat().some((part) => part.trim() === received)

/** What was typed, with what was refused of it mended: among others a figure keeps its unit close. */
export function mended(text: string, problem: Problem | null, by: string): string {
  if (!problem || !isOf(problem, text)) return text
  const received = problem.received ?? ''
  if (text.trim() === received) return by
  const close = by.replace(/ (?=[a-z]+$)/, '')
  const figures = text.split(/([\s;,]+)/)
  const at = figures.indexOf(received)
  return at < 0 ? text.replace(received, close) : figures.with(at, close).join('')
}

/**
 * What a field says of itself while it is refused: for whoever hears the page. The refusal stands
 * in the ProblemNote with the id `…-why`; `text` is what the field holds, where it is one of several.
 */
export const refusedBy = (id: string, problem: Problem | null, text?: string) =>
  problem && (text === undefined || isOf(problem, text))
    ? { 'aria-invalid': 'true' as const, 'aria-describedby': `${id}-why` }
    : {}

/** Go to the first entry in here that stands refused; whether there is one. */
export function goToRefused(place: HTMLElement | undefined): boolean {
  const field = place?.querySelector<HTMLInputElement>('input[aria-invalid="true"]')
  field?.focus()
  field?.select()
  return Boolean(field)
}
