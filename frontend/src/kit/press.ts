/**
 * A hand holds a button longer than the server takes to answer. A page that moves under it loses the
 * press: what would move it waits. A page that is left by it takes along what was never seen.
 */
import { shallowRef, watch, type Ref } from 'vue'

/** A touch is a click only a moment after the finger has gone. */
const CLICKED_MS = 50

const pressed = shallowRef(false)
let soon: ReturnType<typeof setTimeout> | undefined
const press = (now: boolean) => {
  clearTimeout(soon)
  pressed.value = now
}

addEventListener('pointerdown', (event) => event.button === 0 && press(true), true)
for (const ended of ['pointerup', 'pointercancel'])
  addEventListener(ended, () => (soon = setTimeout(press, CLICKED_MS, false)), true)
addEventListener('blur', () => press(false))

/** What to show of something that changes: while a button is pressed, what it was before. */
export function steady<T>(now: () => T): Readonly<Ref<T>> {
  const shown = shallowRef(now())
  watch([now, pressed], ([value, held]) => held || (shown.value = value))
  return shown
}

/** No button is pressed, or it has had its click. */
export const pressEnded = () =>
  new Promise<void>((ended) => {
    if (pressed.value) watch(pressed, () => ended(), { once: true })
    else ended()
  })
