/** The stages of a fastener as they are typed. */
import type { Language } from '../../kit/words'

interface Stage {
  value: number | null
  angle_deg: number | null
}

/**
 * "15; 22; 90°" is three stages, the last an angle. Once semicolons part them, a comma is a decimal
 * one; without any, "15, 22" is two, and "15,2" a decimal only where the language writes it so.
 * `wrong` is the part that is no stage.
 */
export function stagesIn(
  text: string,
  language: Language,
): { stages: Stage[]; wrong: null } | { wrong: string } {
  const parts = text.split(text.includes(';') ? ';' : /,(?=\s)/).map((part) => part.trim())
  const commaIsDecimal = text.includes(';') || language === 'de'
  const stages: Stage[] = []
  for (const part of parts) {
    const turn = part.endsWith('°')
    const figure = turn ? part.slice(0, -1).trim() : part
    const number = Number(commaIsDecimal ? figure.replace(',', '.') : figure)
    if (!figure || Number.isNaN(number)) return { wrong: part }
    stages.push({ value: turn ? null : number, angle_deg: turn ? number : null })
  }
  return { stages, wrong: null }
}
