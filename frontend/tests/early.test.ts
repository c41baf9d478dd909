import { QueryClient } from '@tanstack/vue-query'
import { afterEach, expect, it, vi } from 'vitest'
import { addressesOf, placeOf } from '../src/api/early'

const STATIONS = [
  'setup', 'base_circle', 'zero_lash', 'rocker', 'heads', 'decide', 'order', 'sign_off', 'history',
] // prettier-ignore
const full = (address: string) => new URL(address, location.href).href

afterEach(() => {
  vi.unstubAllGlobals()
  vi.resetModules()
  delete window.early
})

/** The client as a page has it, with answers that were asked for early. */
async function begun(spoken: string, answers: Record<string, unknown>) {
  const fetched: string[] = []
  const answered = (body: unknown) =>
    new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } })
  vi.stubGlobal('fetch', (request: Request) => {
    fetched.push(request.url)
    return Promise.resolve(answered('anew'))
  })
  const early = Object.entries(answers).map(
    ([address, body]) =>
      [full(address), Promise.resolve(body === undefined ? body : answered(body))] as const,
  )
  window.early = { spoken, answers: new Map(early) }
  const { asks, askAhead } = await import('../src/stations/builds')
  const { endEarly } = await import('../src/api/early')
  return { fetched, asks, askAhead, endEarly }
}

it.each(STATIONS)('asks early for what %s asks ahead', async (station) => {
  const { fetched, askAhead } = await begun('', {})
  await askAhead(new QueryClient(), station, 'b', 'v')
  const asked = addressesOf(`/builds/b/${station}/v`)
  expect(asked.map(full).sort()).toEqual(fetched.sort())
})

it('asks early for nothing where no build is named', () => {
  expect(addressesOf('/')).toEqual([])
  expect(addressesOf('/history')).toEqual([])
  expect(placeOf('/')).toEqual({ station: 'board', build: '', valve: '' })
})

it('takes an early answer once, and asks anew after it', async () => {
  const { fetched, asks } = await begun(document.cookie, { '/api/builds/b/heads': 'early' })
  expect(await asks.heads('b', '')).toBe('early')
  expect(await asks.heads('b', '')).toBe('anew')
  expect(fetched).toEqual([full('/api/builds/b/heads')])
})

it('takes no early answer in another unit than is spoken now', async () => {
  document.cookie = 'vivid-arm-unit=mm'
  const { asks } = await begun('vivid-arm-unit=in', { '/api/builds/b/heads': 'early' })
  expect(await asks.heads('b', '')).toBe('anew')
})

it('asks anew where the early answer did not come, or the page has been made', async () => {
  const lost = await begun(document.cookie, { '/api/builds/b/heads': undefined })
  expect(await lost.asks.heads('b', '')).toBe('anew')
  vi.resetModules()
  const late = await begun(document.cookie, { '/api/builds/b/heads': 'early' })
  late.endEarly()
  expect(await late.asks.heads('b', '')).toBe('anew')
})

it('tells the server language and unit before it asks, where it has never been told', async () => {
  const cookies: string[] = []
  vi.stubGlobal('PAGE_FILES', {})
  vi.stubGlobal('navigator', { language: 'de-AT', languages: ['de-AT', 'en'] })
  vi.stubGlobal('fetch', () => Promise.resolve(cookies.push(document.cookie)))
  document.cookie = 'vivid-arm-unit=; max-age=0'
  document.cookie = 'vivid-arm-language=; max-age=0'
  history.replaceState(null, '', '/builds/b/heads')
  await import('../src/app/early')
  history.replaceState(null, '', '/')
  const told = 'vivid-arm-language=de; vivid-arm-unit=mm'
  expect(cookies).toEqual([told, told])
  expect(window.early?.spoken).toBe(told)
})
