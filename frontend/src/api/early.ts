/** What a page shows first, asked for while its program is still on its way. */

/** Answers by their whole address, and what the browser had told the server when it asked. */
export interface Early {
  spoken: string
  answers: Map<string, Promise<Response | undefined>>
}
declare global {
  interface Window {
    early?: Early
  }
}

const SHOP: Record<string, string[]> = {
  setup: ['/api/instruments', '/api/rules'],
  base_circle: ['/api/rules'],
  zero_lash: ['/api/rules'],
}
const OF_BUILD: Record<string, string[]> = {
  heads: ['/heads'],
  decide: ['/decide'],
  order: ['/orders'],
  sign_off: ['/sign_off'],
}
const OF_VALVE: Record<string, string[]> = {
  zero_lash: [''],
  rocker: ['/rocker', '/rocker/motion'],
}

/** The station that a page's address names, and its build and valve where it names them. */
export function placeOf(path: string) {
  const [first = 'board', build = '', station = '', valve = ''] = path.split('/').filter(Boolean)
  return first === 'builds' ? { station, build, valve } : { station: first, build: '', valve: '' }
}

/** The addresses of what a page asks at once: what `askAhead` asks, before that is there. */
export function addressesOf(path: string): string[] {
  const { station, build, valve } = placeOf(path)
  if (!build) return []
  const here = `/api/builds/${build}`
  return [
    here,
    ...(SHOP[station] ?? []),
    ...(OF_BUILD[station] ?? []).map((what) => here + what),
    ...((valve && OF_VALVE[station]) || []).map((what) => `${here}/valves/${valve}${what}`),
  ]
}

/** Ask for what a page shows first; not where the server has never been told the language. */
export function askEarly() {
  const spoken = document.cookie
  if (!spoken) return
  const asked = addressesOf(location.pathname).map((address) => {
    const { href } = new URL(address, location.href)
    return [href, fetch(href).catch(() => undefined)] as const
  })
  window.early = { spoken, answers: new Map(asked) }
}

/** Asked once the program begins: an answer that is asked for later is not taken. */
const { early } = window

/** An answer that was asked for early, in the language and unit that are spoken now; once. */
export async function takeEarly(request: Request): Promise<Response | undefined> {
  const asked = early?.answers.get(request.url)
  early?.answers.delete(request.url)
  return request.method === 'GET' && early?.spoken === document.cookie ? asked : undefined
}

/** From now on everything is asked anew. */
export const endEarly = () => early?.answers.clear()
