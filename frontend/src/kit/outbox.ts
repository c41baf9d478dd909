/**
 * The outbox: every keyed write waits here until the server has answered it.
 *
 * A reading is stored in the browser's database, one record each, before it is sent. What is not
 * answered is sent again in the order it was entered, with the same key, so that one reading stays
 * one reading; what the server refuses later stays until somebody has looked at it. One tab sends
 * at a time, and a tab that dies in between leaves its readings to the next. Where the browser's
 * database fails, a reading is sent all the same, and waits in its tab.
 */
import type { Problem } from '../api/client'
import { createStore } from './boxStore'

/** What is kept of a write. `shown` is the instrument as the screen showed it, with its version. */
export interface Entry<Body = unknown> {
  key: string
  kind: string
  /** What the builder knows it by, such as "11 turns, loose". */
  words: string
  build: string
  valve: string | null
  body: Body & { key: string }
  inches: number | null
  at: number
  /** Why the server refused it, or did not answer; null while it has not been tried. */
  problem: Problem | null
  refused: boolean
  /** Nobody has said yet who entered it: it is kept here, and sent once that is known. */
  unnamed: boolean
  /** The browser's database did not take it: it waits in this tab only. */
  unstored?: boolean
}
export type Draft<Body = unknown> = Pick<
  Entry<Body>,
  'kind' | 'words' | 'build' | 'valve' | 'body' | 'inches'
>

export interface Means {
  /** Send one write; throws nothing: a problem is an answer too. */
  send: (entry: Entry) => Promise<{ data: unknown } | { problem: Problem }>
  /** What to do with an answer, whoever sent the write: at once, before it leaves the box. */
  kept: (entry: Entry, data: unknown) => void
  /** Who enters, where that is known already; else null. */
  known: () => string | null
  /** Who enters, once that is known. */
  named: () => Promise<string>
  /** Run one at a time across all tabs. */
  alone: <T>(work: () => Promise<T>) => Promise<T>
  /** Tell every tab, this one too, that the box has changed. */
  changed: () => void
  now?: () => number
  name?: string
}

/** What whoever enters something is told of it, and tells. */
export interface Entering {
  /** It cannot be lost any more: it is stored, and who entered it is known. */
  safe?: () => void
  /** Whether a refusal would still be seen where it was entered. */
  here?: () => boolean
}

/** A write of this tab until it is answered. */
interface Entered {
  here: () => boolean
  sent: boolean
  /** Why the server refused it, where that is seen. */
  refusal: Problem | null
}

/** No answer, trouble at the server, or nobody signed in: it is sent again. */
export const unanswered = ({ status }: Problem) => status === 0 || status === 401 || status >= 500

export function createOutbox(means: Means) {
  const store = createStore(means.name ?? 'vivid-arm')
  const { all } = store
  async function drop(key: string) {
    await store.drop(key)
    means.changed()
  }
  async function mark(key: string, change: Partial<Entry>) {
    if (await store.change(key, change)) means.changed()
  }

  /** By key. Whatever sends the box may come to such a write before its own turn to be sent. */
  const entered = new Map<string, Entered>()

  /**
   * Send one entry that is still in the box; its problem, or null when it is kept. A refusal that
   * is given back to who entered it leaves the box, never shown there.
   */
  async function sendOne(entry: Entry): Promise<Problem | null> {
    const answer = await means.send(entry)
    const mine = entered.get(entry.key)
    if (mine) mine.sent = true
    if ('problem' in answer) {
      const { problem } = answer
      const refused = !unanswered(problem)
      if (refused && mine?.here()) await giveBack(entry.key, problem, mine)
      else await mark(entry.key, { problem, refused })
      return problem
    }
    try {
      means.kept(entry, answer.data)
    } finally {
      await drop(entry.key)
    }
    return null
  }
  async function giveBack(key: string, problem: Problem | null, to: Entered) {
    to.refusal = problem
    await drop(key)
  }
  /** Another tab had it sent meanwhile: what that one left of it. */
  async function sentElsewhere(key: string, mine: Entered) {
    const left = (await all()).find((entry) => entry.key === key)
    if (left?.refused && mine.here()) await giveBack(key, left.problem, mine)
  }

  /**
   * Send what waits, in order. Where the server does not answer at all, the rest is not tried;
   * what it refuses is passed over and stays. `last` ends it: what was entered after is another's
   * to send.
   */
  function flush(last?: string): Promise<void> {
    return means.alone(async () => {
      let away: Problem | null = null
      for (const entry of await all()) {
        if (entry.refused || entry.unnamed) continue
        if (away) await mark(entry.key, { problem: away })
        const problem: Problem | null = away ?? (await sendOne(entry))
        if (problem?.status === 0) away = problem
        if (entry.key === last) break
      }
    })
  }

  /** Put the name to a stored write. */
  async function name(entry: Entry) {
    const by = await means.named()
    await mark(entry.key, { body: { ...entry.body, by } as Entry['body'], unnamed: false })
  }

  /** Take on what a tab before left: ask for the names that are missing, then send. */
  async function start() {
    for (const entry of await all()) if (entry.unnamed) await name(entry)
    await flush()
  }

  /**
   * Store a write, then send it and all that waits before it. Its refusal is given back to who
   * entered it, and it leaves the box, since it stands in the field as typed. Where that field has
   * gone it stays in the box, as one that is not answered does: null, as when it is kept.
   */
  async function post(draft: Draft, { safe, here }: Entering = {}): Promise<Problem | null> {
    const by = means.known()
    const key = draft.body.key
    const entry: Entry = {
      ...draft,
      body: (by === null ? draft.body : { ...draft.body, by }) as Entry['body'],
      key,
      at: (means.now ?? Date.now)(),
      problem: null,
      refused: false,
      unnamed: by === null,
    }
    const mine: Entered = { here: here ?? (() => true), sent: false, refusal: null }
    entered.set(key, mine)
    try {
      if (await store.add(entry)) {
        means.changed()
        if (entry.unnamed) await name(entry)
      }
      safe?.()
      await flush(key)
      if (!mine.sent) await sentElsewhere(key, mine)
      return mine.refusal
    } finally {
      entered.delete(key)
    }
  }

  /** Send a refused one again, as it is or with what was chosen. */
  async function retry(key: string, change: object = {}) {
    const entry = (await all()).find((e) => e.key === key)
    if (!entry) return
    await mark(key, { refused: false, body: { ...entry.body, ...change } })
    await flush()
  }

  return { all, start, post, flush, retry, drop }
}
