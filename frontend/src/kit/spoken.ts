/** The language and the unit that pages and server speak; the server is told before it is asked. */
import type { Unit } from './format'

export type Language = 'en' | 'de'
const LANGUAGES: Language[] = ['en', 'de']
export const LANGUAGE_KEPT = 'vivid-arm.language'
export const UNIT_KEPT = 'vivid-arm.unit'

/** The language somebody chose here, else the first of the browser's that is spoken. */
function chosen(): Language {
  const spoken = (code: string) => LANGUAGES.find((l) => l === code.slice(0, 2).toLowerCase())
  const asked = [localStorage.getItem(LANGUAGE_KEPT) ?? '', ...navigator.languages]
  return asked.map(spoken).find(Boolean) ?? 'en'
}
export const language = chosen()
/** Until somebody chooses: the trade measures in inches where English is spoken. */
export const usualUnit: Unit = navigator.language.startsWith('en') ? 'in' : 'mm'

/** Tell the server how its sentences and papers are wanted. */
export function tellServer(what: 'language' | 'unit', wanted: string) {
  const secure = location.protocol === 'https:' ? '; secure' : ''
  document.cookie = `vivid-arm-${what}=${wanted}; path=/; max-age=31536000; samesite=strict${secure}`
}
tellServer('language', language)
tellServer('unit', localStorage.getItem(UNIT_KEPT) ?? usualUnit)
