/** A number pad of the job in place of the text keyboard, where fingers are all there is. */
import { useMediaQuery } from '@vueuse/core'
import { computed, shallowRef } from 'vue'

/** Whether the main pointer is a finger: the pad stands in for the keyboard. */
export const useFingers = () => useMediaQuery('(pointer: coarse)')

/** The field the pad types into; letters are wanted instead once somebody asks for them. */
export const padField = shallowRef<HTMLInputElement | null>(null)
let letters = false

/** Whether turns are counted in that field, not a length read. */
export const countsTurns = computed(() => Boolean(padField.value?.closest('[data-turns]')))

const FIELDS = '[data-bench], [data-pad]'

function padded(target: EventTarget | null): HTMLInputElement | null {
  if (!(target instanceof Element)) return null
  const input = target.closest(FIELDS) && target.closest('.el-input')?.querySelector('input')
  return input instanceof HTMLInputElement && !input.readOnly ? input : null
}

/** Before a field has the focus: no keyboard of letters comes up. */
export function beforeFocus(event: Event): void {
  const input = padded(event.target)
  if (input) input.inputMode = letters ? 'text' : 'none'
}

/** The pad comes with a field at once; it goes only when a tap elsewhere has ended. */
export function onFocus(event: FocusEvent): void {
  const input = padded(event.target)
  if (!input) letters = false
  else padField.value = letters ? null : input
}

/** Letters for once: the field has its keyboard until it is left. */
export function wantLetters(): void {
  const input = padField.value
  letters = true
  padField.value = null
  if (!input) return
  input.blur()
  input.inputMode = 'text'
  input.focus()
}

function changed(input: HTMLInputElement): void {
  input.dispatchEvent(new Event('input', { bubbles: true }))
}

export function type(text: string): void {
  const input = padField.value
  if (!input) return
  const [from, to] = [input.selectionStart ?? input.value.length, input.selectionEnd ?? 0]
  input.setRangeText(text, from, Math.max(from, to), 'end')
  changed(input)
}

export function rubOut(): void {
  const input = padField.value
  if (!input) return
  const [from, to] = [input.selectionStart ?? 0, input.selectionEnd ?? 0]
  if (from === to && from === 0) return
  input.setRangeText('', from === to ? from - 1 : from, to, 'end')
  changed(input)
}

/** As the key of a keyboard: a form that holds the field is sent where nothing else was done. */
export function enter(): void {
  const input = padField.value
  const event = { key: 'Enter', code: 'Enter', bubbles: true, cancelable: true }
  if (input?.dispatchEvent(new KeyboardEvent('keydown', event))) input.form?.requestSubmit()
}
