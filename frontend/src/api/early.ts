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

/** Where the answers are that a page may show first, by the name they are kept under. */
const ADDRESSES = {
  rules: () => '/api/rules',
  instruments: () => '/api/instruments',
  station: (build: string, valve: string) => `/api/builds/${build}/valves/${valve}`,
  rocker: (build: string, valve: string) => `/api/builds/${build}/valves/${valve}/rocker`,
  motion: (build: string, valve: string) => `/api/builds/${build}/valves/${valve}/rocker/motion`,
  heads: (build: string) => `/api/builds/${build}/heads`,
  decision: (build: string) => `/api/builds/${build}/decide`,
  orders: (build: string) => `/api/builds/${build}/orders`,
  sign_off: (build: string) => `/api/builds/${build}/sign_off`,
}
/** What each station shows first, besides its build. */
export const SHOWN_FIRST: Record<string, (keyof typeof ADDRESSES)[]> = {
  setup: ['instruments', 'rules'],
  base_circle: ['rules'],
  zero_lash: ['rules', 'station'],
  rocker: ['rocker', 'motion'],
  heads: ['heads'],
  decide: ['decision'],
  order: ['orders'],
  sign_off: ['sign_off'],
}

/** The station that a page's address names, and its build and valve where it names them. */
export function placeOf(path: string) {
  const [first = 'board', build = '', station = '', valve = ''] = path.split('/').filter(Boolean)
  return first === 'builds' ? { station, build, valve } : { station: first, build: '', valve: '' }
}

/** The addresses of what a page shows first. */
export function addressesOf(path: string): string[] {
  const { station, build, valve } = placeOf(path)
  if (!build) return []
  const shown = SHOWN_FIRST[station] ?? []
  return [`/api/builds/${build}`, ...shown.map((what) => ADDRESSES[what](build, valve))]
}

/** Ask for what a page shows first. */
export function askEarly() {
  const spoken = document.cookie
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
