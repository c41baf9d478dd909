/** Who measures: asked once a day, before the first reading is kept; midnight ends no work. */
import { createGlobalState, until } from '@vueuse/core'
import { ref } from 'vue'
import { me } from './me'
import { usePrefs } from './prefs'

const ASKED = 'vivid-arm.asked'
const KEPT = 'vivid-arm.kept'
/** Whoever kept a reading so short a time ago is still at it, though a new day has begun. */
const AT_IT_MS = 4 * 3600_000
const today = () => new Date().toDateString()
const sayKept = () => localStorage.setItem(KEPT, String(Date.now()))

function askedToday(): boolean {
  const since = Date.now() - Number(localStorage.getItem(KEPT))
  return localStorage.getItem(ASKED) === today() || Math.abs(since) < AT_IT_MS
}

export const useWho = createGlobalState(() => {
  const { by } = usePrefs()
  const open = ref(false)
  let waiting: (() => void)[] = []

  /** The name that goes with what is kept, where it is known today; else null. */
  const known = () => {
    if (me.value.accounts) return me.value.name ?? null
    return askedToday() ? by.value : null
  }
  /** The same; the first of a day waits until it is known. */
  async function named(): Promise<string> {
    if (me.value.accounts) {
      await until(() => me.value.name).toBeTruthy()
      return me.value.name ?? ''
    }
    if (known() === null) {
      open.value = true
      await new Promise<void>((answered) => waiting.push(answered))
    }
    sayKept()
    return by.value
  }
  /** A name, none, or the one there was: whatever waits is kept with it. */
  function answered(name: string = by.value) {
    by.value = name.trim()
    localStorage.setItem(ASKED, today())
    open.value = false
    for (const go of waiting) go()
    waiting = []
  }
  return { by, open, known, named, answered }
})
