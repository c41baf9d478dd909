/** Runs by itself before the program: asks for its files and for what the page shows first. */
import { askEarly, placeOf } from '../api/early'

/** The files of each page beyond the program's own, by the page's name; put in by the build. */
declare const PAGE_FILES: Record<string, string[]>

const made = (what: Partial<HTMLLinkElement>) => Object.assign(document.createElement('link'), what)
const name = placeOf(location.pathname).station.replace(/(?:^|[_-])(\w)/g, (_, c: string) =>
  c.toUpperCase(),
)
const files = PAGE_FILES[`${name}Page`] ?? []
const styles = files.filter((href) => href.endsWith('.css'))
for (const href of files) {
  document.head.append(
    made({ rel: 'preload', as: styles.includes(href) ? 'style' : 'script', href }),
  )
}
// Behind the program's own, as they would come without this.
document.addEventListener('DOMContentLoaded', () => {
  document.head.append(...styles.map((href) => made({ rel: 'stylesheet', href })))
})
askEarly()
