/** What the pages say, in the language chosen. English stands in the code and is its own key. */
import { createI18n, type MessageContext } from 'vue-i18n'
import { LANGUAGE_KEPT, language, type Language } from './spoken'

type Texts = Record<string, string>
export { language, type Language }
/** The locale that dates and times are written in: the browser's own where its language is this. */
export const locale = navigator.language.startsWith(language) ? navigator.language : language
const texts: Texts = language === 'de' ? (await import('./words.de.json')).default : {}
document.documentElement.lang = language

const { global } = createI18n({
  legacy: false,
  locale: language,
  messages: { [language]: texts },
  messageResolver: (all, text) => (all as Texts)[text] ?? null,
  // Values by name is all that the texts ask for: no compiler is fetched or run for them.
  messageCompiler: (text) => (values: MessageContext) =>
    String(text).replace(/\{(\w+)\}/g, (_, name) => String(values.named(name))),
  fallbackFormat: true,
  missingWarn: false,
  fallbackWarn: false,
})

/** A sentence in the language chosen, with its figures put in. */
export const t = (text: string, values?: Record<string, unknown>): string =>
  values ? global.t(text, values) : (texts[text] ?? text)

/** Go on in another language. */
export function speak(wanted: Language) {
  localStorage.setItem(LANGUAGE_KEPT, wanted)
  location.reload()
}

/** A figure as the language chosen writes it; fields take both points and commas. */
export const decimal = (figure: string) => (language === 'de' ? figure.replace('.', ',') : figure)
