/** Single keys of the page in view, and the list that `?` shows. */
import { useStorage } from '@vueuse/core'
import { onScopeDispose, shallowRef } from 'vue'

export interface Key {
  /** KeyboardEvent.key, lower case; `shift+` in front where it matters. */
  key: string
  /** How the key is written in the list. */
  shown?: string
  does: string
  run: () => void
}

export const keysInView = shallowRef<Key[]>([])

function name(event: KeyboardEvent): string {
  // The plus of most keyboards stands over the equals sign.
  const key = event.key === '=' ? '+' : event.key.toLowerCase()
  return event.shiftKey && key.startsWith('arrow') ? `shift+${key}` : key
}

/** Typing goes to the field; an empty bench field lets letters through, a sign begins a figure. */
function typing(event: KeyboardEvent): boolean {
  const target = event.target
  if (!(target instanceof Element)) return false
  if (target instanceof HTMLInputElement) {
    const empty = target.closest('[data-bench]') && target.value === ''
    return !empty || /^[+=-]$/.test(event.key)
  }
  return target.matches('textarea, select, [role="combobox"], [role="slider"], [role="radio"]')
}

/** Enter and Space belong to the button or link that has the focus. */
function taken(event: KeyboardEvent): boolean {
  const target = event.target
  return (
    (event.key === 'Enter' || event.key === ' ') &&
    target instanceof Element &&
    target.closest('button, a[href], summary, label, [role="button"]') !== null
  )
}

/** Single keys can be switched off: whoever speaks to the machine types them by chance. */
export const singleKeys = useStorage('vivid-arm.keys', true)
const single = (event: KeyboardEvent) => event.key.length === 1 && event.key !== ' '

/** Escape leaves whatever field is typed into, as Tab does. */
export function leaveOnEscape(event: KeyboardEvent): void {
  const target = event.target
  if (event.key === 'Escape' && target instanceof HTMLElement && typing(event) && !dialogOpen())
    target.blur()
}

function dialogOpen(): boolean {
  return document.body.classList.contains('el-popup-parent--hidden')
}

export function useKeys(keys: Key[]): void {
  const table = new Map(keys.map((k) => [k.key, k]))
  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    // A key held down turns the rod on, but records one trial only.
    if (event.repeat && !/^(Arrow|[+=-]$)/.test(event.key)) return
    if (typing(event) || dialogOpen() || taken(event)) return
    if (single(event) && !singleKeys.value) return
    const found = table.get(name(event))
    if (!found) return
    event.preventDefault()
    found.run()
  }
  window.addEventListener('keydown', onKey)
  keysInView.value = [...keysInView.value, ...keys]
  onScopeDispose(() => {
    window.removeEventListener('keydown', onKey)
    keysInView.value = keysInView.value.filter((k) => !keys.includes(k))
  })
}
