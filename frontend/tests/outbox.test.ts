import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Problem } from '../src/api/client'
import { createOutbox, type Draft, type Entry, type Means } from '../src/kit/outbox'

const problem = (status: number): Problem => ({
  type: 'about:blank', title: '', status, code: 'x', detail: `status ${status}`, context: {},
}) // prettier-ignore

/** A server that keeps by key, and answers as it is told. */
class Server {
  kept: string[] = []
  order: string[] = []
  status = 201
  refuses = new Set<string>()
  gate: Promise<void> | null = null
  async take(entry: Entry) {
    if (this.gate) await this.gate
    if (this.status !== 201) return { problem: problem(this.status) }
    if (this.refuses.has(entry.words)) return { problem: problem(422) }
    this.order.push(entry.words)
    if (!this.kept.includes(entry.key)) this.kept.push(entry.key)
    return { data: entry.words }
  }
}

let server: Server
let name: string
let turn: Promise<unknown>
let run = 0
beforeEach(() => {
  server = new Server()
  name = `box-${(run += 1)}`
  turn = Promise.resolve()
})

/** A tab on the same browser: one database, one lock between all of them. */
function tab(means: Partial<Means> = {}) {
  const answers: unknown[] = []
  const box = createOutbox({
    send: (entry) => server.take(entry),
    kept: (_, data) => answers.push(data),
    alone: (work) => {
      const mine = turn.then(work, work)
      turn = mine.catch(() => undefined)
      return mine
    },
    changed: () => undefined,
    known: () => null,
    named: () => Promise.resolve('Tess'),
    name,
    ...means,
  })
  return { box, answers }
}
const draft = (words: string): Draft => ({
  kind: 'trial', words, build: 'b', valve: 'v', inches: 7.4, body: { key: crypto.randomUUID() },
}) // prettier-ignore

describe('the outbox', () => {
  it('asks nobody for a name that is known, and answers before the box is empty', async () => {
    const named = vi.fn(() => Promise.resolve('nobody'))
    const waiting: number[] = []
    const { box } = tab({
      known: () => 'Olm',
      named,
      send: async (entry) => ({ data: (entry.body as { by?: string }).by }),
      kept: (entry, data) => {
        expect(data).toBe('Olm')
        void box.all().then((left) => waiting.push(left.filter((e) => e.key === entry.key).length))
      },
    })
    expect(await box.post(draft('11 turns, loose'))).toBeNull()
    expect(named).not.toHaveBeenCalled()
    expect(waiting).toEqual([1])
    expect(await box.all()).toEqual([])
  })

  it('holds a write before its name is known, and a later tab asks again', async () => {
    const sent: Entry[] = []
    const send = (entry: Entry) => {
      sent.push(entry)
      return server.take(entry)
    }
    const killed = tab({ named: () => new Promise(() => undefined), send })
    void killed.box.post(draft('11 turns'))
    const { box, answers } = tab({ send })
    await vi.waitFor(async () => expect(await box.all()).toHaveLength(1))
    await box.flush()
    expect(sent).toEqual([])
    await box.start()
    expect(answers).toEqual(['11 turns'])
    expect(sent.map((e) => (e.body as { by?: string }).by)).toEqual(['Tess'])
    expect(await box.all()).toEqual([])
  })
  it('tells that a write is safe once it is stored and named, before it is sent', async () => {
    let say: (name: string) => void = () => undefined
    const { box } = tab({ named: () => new Promise((known) => (say = known)) })
    const safe = vi.fn(async () => {
      expect(server.kept).toEqual([])
      expect((await box.all()).map((e) => [e.words, e.unnamed])).toEqual([['1 turn', false]])
    })
    const posted = box.post(draft('1 turn'), { safe })
    await vi.waitFor(async () => expect(await box.all()).toHaveLength(1))
    expect(safe).not.toHaveBeenCalled()
    await vi.waitFor(() => (say('Tess'), expect(safe).toHaveBeenCalledOnce()))
    await posted
    await safe.mock.results[0]?.value
    expect(server.kept).toHaveLength(1)
  })

  it('keeps a write, hands the answer on and is empty again', async () => {
    const { box, answers } = tab()
    expect(await box.post(draft('a'))).toBeNull()
    expect(answers).toEqual(['a'])
    expect(await box.all()).toEqual([])
  })

  it('has stored a write before it is sent, so that a killed tab loses none', async () => {
    let open: () => void = () => undefined
    server.gate = new Promise((resolve) => (open = resolve))
    void tab({ known: () => 'Tess' }).box.post(draft('a'))
    const next = tab({
      alone: (work) => work(), // The lock of the killed tab is gone with it.
    })
    await expect.poll(async () => (await next.box.all()).length).toBe(1)
    open()
    server.gate = null
    await next.box.flush()
    expect(server.kept).toHaveLength(1)
    expect(await next.box.all()).toEqual([])
  })

  it.each([0, 500, 503])(
    'sends again after %i, in order and under the same keys',
    async (status) => {
      const { box } = tab()
      server.status = status
      for (const words of ['a', 'b', 'c']) expect(await box.post(draft(words))).toBeNull()
      const left = await box.all()
      expect(left.map((e) => e.problem?.status)).toEqual([status, status, status])
      const keys = left.map((e) => e.key)
      server.status = 201
      await box.flush()
      expect(server.order).toEqual(['a', 'b', 'c'])
      expect(server.kept).toEqual(keys)
    },
  )

  it('loses nothing between three tabs in an outage', async () => {
    const tabs = [tab(), tab(), tab()]
    server.status = 0
    const words = tabs.flatMap((_, t) => Array.from({ length: 8 }, (_, i) => `${t}.${i}`))
    await Promise.all(words.map((w) => tabs[Number(w[0])]?.box.post(draft(w))))
    server.status = 201
    await Promise.all(tabs.map((t) => t.box.flush()))
    expect([...server.order].sort()).toEqual([...words].sort())
    expect(server.kept).toHaveLength(24)
  })

  it('gives a refused write back to who entered it', async () => {
    const { box } = tab()
    server.refuses.add('wrong')
    expect((await box.post(draft('wrong')))?.status).toBe(422)
    expect(await box.all()).toEqual([])
  })

  it.each(['this tab', 'another tab'])(
    'gives a refused write back that %s came to send before its turn',
    async (which) => {
      const { box } = tab()
      const sender = which === 'this tab' ? box : tab().box
      server.refuses.add('wrong')
      let open: () => void = () => undefined
      turn = new Promise<void>((resolve) => (open = resolve))
      const other = sender.flush()
      const posted = box.post(draft('wrong'))
      await vi.waitFor(async () => expect((await box.all())[0]?.unnamed).toBe(false))
      open()
      await other
      expect((await posted)?.status).toBe(422)
      expect(await box.all()).toEqual([])
    },
  )

  it('keeps a refused write in sight where nobody sees its field any more', async () => {
    const { box } = tab()
    server.refuses.add('wrong')
    expect(await box.post(draft('wrong'), { here: () => false })).toBeNull()
    const [left] = await box.all()
    expect(left).toMatchObject({ words: 'wrong', refused: true, problem: { status: 422 } })
    await box.drop(left?.key ?? '')
    expect((await box.post(draft('wrong'), { here: () => true }))?.status).toBe(422)
    expect(await box.all()).toEqual([])
  })

  it('shows what is refused later, passes over it, and sends it when told', async () => {
    const { box } = tab()
    server.status = 0
    await box.post(draft('wrong'))
    await box.post(draft('right'))
    server.status = 201
    server.refuses.add('wrong')
    await box.flush()
    const [left] = await box.all()
    expect(left).toMatchObject({ words: 'wrong', refused: true, problem: { status: 422 } })
    await box.flush()
    expect(server.order).toEqual(['right'])
    server.refuses.clear()
    await box.retry(left?.key ?? '')
    expect(server.order).toEqual(['right', 'wrong'])
    expect(await box.all()).toEqual([])
  })

  it('sends what waits before what is entered now', async () => {
    const { box } = tab()
    server.status = 0
    await box.post(draft('a'))
    server.status = 201
    expect(await box.post(draft('b'))).toBeNull()
    expect(server.order).toEqual(['a', 'b'])
  })

  it('forgets what is discarded', async () => {
    const { box } = tab()
    server.status = 503
    const one = draft('a')
    await box.post(one)
    await box.drop(one.body.key)
    server.status = 201
    await box.flush()
    expect(server.order).toEqual([])
  })
})

describe('a browser that stores nothing', () => {
  const open = indexedDB.open.bind(indexedDB)
  afterEach(() => {
    indexedDB.open = open
    vi.useRealTimers()
    vi.restoreAllMocks()
  })
  beforeEach(() => void vi.spyOn(console, 'warn').mockImplementation(() => undefined))

  it('has its readings sent, and holds what is not answered in the tab', async () => {
    indexedDB.open = () => {
      throw new DOMException('no room', 'UnknownError')
    }
    const { box, answers } = tab()
    expect(await box.post(draft('11 turns, loose'))).toBeNull()
    server.status = 503
    expect(await box.post(draft('12 turns, tight'))).toBeNull()
    const left = await box.all()
    expect(left.map((e) => [e.words, e.unstored, e.problem?.status])).toEqual([
      ['12 turns, tight', true, 503],
    ])
    server.status = 201
    await box.flush()
    expect(await box.all()).toEqual([])
    expect(answers).toEqual(['11 turns, loose', '12 turns, tight'])
  })

  it('for want of room still sends what it stored before', async () => {
    server.status = 503
    const { box, answers } = tab()
    await box.post(draft('11 turns, loose'))
    vi.spyOn(IDBObjectStore.prototype, 'add').mockImplementation(() => {
      throw new DOMException('no room', 'QuotaExceededError')
    })
    await box.post(draft('12 turns, tight'))
    const left = await box.all()
    expect(left.map((e) => [e.words, e.unstored])).toEqual([
      ['11 turns, loose', undefined],
      ['12 turns, tight', true],
    ])
    server.status = 201
    await box.flush()
    expect(answers).toEqual(['11 turns, loose', '12 turns, tight'])
    expect(await box.all()).toEqual([])
  })

  it('that does not answer is not waited for', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'Date'] })
    indexedDB.open = () => new EventTarget() as IDBOpenDBRequest
    const { box, answers } = tab()
    const first = box.post(draft('11 turns, loose'))
    await vi.advanceTimersByTimeAsync(5_000)
    expect(await first).toBeNull()
    expect(await box.post(draft('12 turns, tight'))).toBeNull()
    expect(answers).toEqual(['11 turns, loose', '12 turns, tight'])
  })

  it('for a moment only is asked again, and stores', async () => {
    let connection: IDBDatabase | undefined
    indexedDB.open = (...asked) => {
      const request = open(...asked)
      request.addEventListener('success', () => (connection = request.result))
      return request
    }
    const { box } = tab()
    await box.post(draft('11 turns, loose'))
    connection?.close()
    server.status = 503
    await box.post(draft('12 turns, tight'))
    const left = await box.all()
    expect(left.map((e) => [e.words, e.unstored])).toEqual([['12 turns, tight', undefined]])
    expect(await tab().box.all()).toHaveLength(1)
  })
})
