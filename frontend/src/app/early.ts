/** Runs by itself before the program: asks for its files and for what the page shows first. */
import { askEarly, placeOf } from '../api/early'

/** The files of each page beyond the program's own, by the page's name; put in by the build. */
declare const PAGE_FILES: Record<string, string[]>

const made = (tag: 'link' | 'script', what: object) =>
  Object.assign(document.createElement(tag), what)
const name = placeOf(location.pathname).station.replace(/(?:^|[_-])(\w)/g, (_, c: string) =>
  c.toUpperCase(),
)
const files = PAGE_FILES[`${name}Page`] ?? []
const styles = files.filter((href) => href.endsWith('.css'))
// The loader runs them beside the program, as soon as they are there.
for (const src of files.filter((href) => !styles.includes(href)))
  document.head.append(made('script', { type: 'systemjs-module', src }))
for (const href of styles) document.head.append(made('link', { rel: 'preload', as: 'style', href }))
// Behind the program's own, as they would come without this.
document.addEventListener('DOMContentLoaded', () => {
  document.head.append(...styles.map((href) => made('link', { rel: 'stylesheet', href })))
})
askEarly()
