/** Where the outbox keeps its entries: the browser's database; where that fails, this tab. */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import type { Entry } from './outbox'

interface Store {
  /** In the order they were entered. */
  all: () => Promise<Entry[]>
  /** Whether it was added; an entry of its key that is there already stays. */
  add: (entry: Entry) => Promise<boolean>
  /** Whether there is such an entry. */
  change: (key: string, change: Partial<Entry>) => Promise<boolean>
  drop: (key: string) => Promise<void>
}

interface Schema extends DBSchema {
  entries: { key: number; value: Entry & { n?: number }; indexes: { key: string } }
}

/** Shared by all tabs, and still there after them. `forget`: open it anew the next time. */
function inBrowser(name: string): Store & { forget: () => void } {
  let opened: Promise<IDBPDatabase<Schema>> | null = null
  const forget = () => void (opened = null)
  function db() {
    opened ??= openDB<Schema>(name, 1, {
      upgrade(base) {
        const store = base.createObjectStore('entries', { keyPath: 'n', autoIncrement: true })
        store.createIndex('key', 'key', { unique: true })
      },
      terminated: forget,
    })
    return opened
  }
  const numberOf = async (key: string) => (await db()).getKeyFromIndex('entries', 'key', key)
  return {
    forget,
    all: async () => (await db()).getAll('entries'),
    async add(entry) {
      try {
        await (await db()).add('entries', entry)
        return true
      } catch (error) {
        if ((error as DOMException).name !== 'ConstraintError') throw error
        return false
      }
    },
    async change(key, change) {
      const base = await db()
      const entry = await base.getFromIndex('entries', 'key', key)
      if (entry) await base.put('entries', { ...entry, ...change })
      return entry !== undefined
    },
    async drop(key) {
      const n = await numberOf(key)
      if (n !== undefined) await (await db()).delete('entries', n)
    },
  }
}

function inTab(): Store {
  const kept = new Map<string, Entry>()
  return {
    all: () => Promise.resolve([...kept.values()]),
    add(entry) {
      const fresh = !kept.has(entry.key)
      if (fresh) kept.set(entry.key, entry)
      return Promise.resolve(fresh)
    },
    change(key, change) {
      const entry = kept.get(key)
      if (entry) kept.set(key, { ...entry, ...change })
      return Promise.resolve(entry !== undefined)
    },
    drop(key) {
      kept.delete(key)
      return Promise.resolve()
    },
  }
}

/** A database that has not answered by then is given up for a while. */
const SILENT_MS = 4_000
const REST_MS = 30_000

const SILENT = new Error('indexedDB silent')

/** What is asked, or SILENT when it has not been answered by then. */
async function inTime<T>(asked: Promise<T>): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined
  const silent = new Promise<never>((_, refuse) => {
    timer = setTimeout(() => refuse(SILENT), SILENT_MS)
  })
  return Promise.race([asked, silent]).finally(() => clearTimeout(timer))
}

/**
 * The browser's database as long as it answers. An entry that it does not take waits in this tab,
 * marked as unstored; one that it took too late is there twice, under one key, and sent as one.
 */
export function createStore(name: string): Store {
  const [browser, tab] = [inBrowser(name), inTab()]
  let restsUntil = 0
  /** What the browser's database answers, opened anew where it was lost; null where it fails. */
  async function asked<T>(ask: (store: Store) => Promise<T>): Promise<T | null> {
    if (Date.now() < restsUntil) return null
    const again = () => {
      browser.forget()
      return ask(browser)
    }
    try {
      return await inTime(ask(browser).catch(again))
    } catch (error) {
      console.warn(error)
      browser.forget()
      // One that has no room for more still gives what it has.
      if (error === SILENT) restsUntil = Date.now() + REST_MS
      return null
    }
  }
  return {
    async all() {
      const here = await tab.all()
      const held = new Set(here.map((entry) => entry.key))
      const stored = ((await asked((store) => store.all())) ?? []).filter((e) => !held.has(e.key))
      return here.length ? [...stored, ...here].sort((a, b) => a.at - b.at) : stored
    },
    async add(entry) {
      // A plain copy: what Vue watches cannot be stored.
      const plain = JSON.parse(JSON.stringify(entry)) as Entry
      const added = await asked((store) => store.add(plain))
      return added ?? tab.add({ ...plain, unstored: true })
    },
    async change(key, change) {
      const stored = await asked((store) => store.change(key, change))
      return (await tab.change(key, change)) || stored === true
    },
    async drop(key) {
      await tab.drop(key)
      await asked((store) => store.drop(key))
    },
  }
}
