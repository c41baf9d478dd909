/** What the pages say, in the language chosen. English stands in the code and is its own key. */
import { createI18n } from 'vue-i18n'

type Texts = Record<string, string>
export const language = localStorage.getItem('vivid-arm.language') === 'de' ? 'de' : 'en'
const texts: Texts = language === 'de' ? (await import('./words.de.json')).default : {}
document.documentElement.lang = language

const { global } = createI18n({
  legacy: false,
  locale: language,
  messages: { [language]: texts },
  messageResolver: (all, text) => (all as Texts)[text] ?? null,
  fallbackFormat: true,
  missingWarn: false,
  fallbackWarn: false,
})

/** The language stays as long as the page: what takes no figures is looked up once. */
const known = new Map<string, string>()
/** A sentence in the language chosen, with its figures put in. */
export function t(text: string, values?: Record<string, unknown>): string {
  if (values) return global.t(text, values)
  const found = known.get(text) ?? global.t(text)
  known.set(text, found)
  return found
}

/** A figure as the language chosen writes it; fields take both points and commas. */
export const decimal = (figure: string) => (language === 'de' ? figure.replace('.', ',') : figure)
