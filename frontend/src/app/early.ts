/** Runs by itself before the program: asks for its files and for what the page shows first. */
// Tells the server language and unit.
import '../kit/spoken'
import { askEarly, placeOf } from '../api/early'

/** The files of each page beyond the program's own, by its station; put in by the build. */
declare const PAGE_FILES: Record<string, string[]>

/** As it is fetched later: another mode would fetch it twice. */
const preload = (href: string) =>
  Object.assign(document.createElement('link'), {
    rel: 'preload',
    ...(href.endsWith('.css') ? { as: 'style', crossOrigin: 'anonymous' } : { as: 'script' }),
    href,
  })
const files = PAGE_FILES[placeOf(location.pathname).station] ?? []
document.head.append(...files.map(preload))
askEarly()
