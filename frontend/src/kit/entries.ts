import { t } from './words'
import type { Ref } from 'vue'
import type { Problem } from '../api/client'
import { pressEnded } from './press'

/**
 * Take what was typed out of its fields as it is sent: what is typed next is another entry.
 * The answer puts it back after a refusal, where nothing else stands there by then.
 */
export function takeOut<Text extends string>(...fields: Ref<Text | ''>[]): () => void {
  const texts = fields.map((field) => field.value)
  for (const field of fields) field.value = ''
  return () => fields.forEach((field, i) => (field.value ||= texts[i] ?? ''))
}

/** What was being typed over has been changed elsewhere: both, for whoever types to choose. */
export const changedElsewhere = (name: string, yours: unknown, stored: unknown): Problem => ({
  type: 'about:blank',
  title: t('Changed elsewhere'),
  status: 409,
  code: 'conflict',
  detail: t('Somebody else changed it meanwhile.'),
  context: { yours: { [name]: yours }, stored: { [name]: stored } },
})

/** Entries that the server is still reading: whatever keeps them waits until they are read. */
const underway = new Set<Promise<boolean>>()

/** An entry is being read; whether it could be. What could not holds up the press that left it. */
export function isRead(reading: Promise<boolean>): Promise<boolean> {
  underway.add(reading)
  const answered = () => underway.delete(reading)
  void reading.then((read) => (read ? answered() : pressEnded().then(answered)), answered)
  return reading
}

/** All entries under way are read; whether all of them could be. */
export async function allRead(): Promise<boolean> {
  return (await Promise.all(underway)).every(Boolean)
}

/** Leaving the page, by the browser's "back" too, is the end of an entry. */
export function endEntry() {
  const field = document.activeElement
  if (field instanceof HTMLElement && field.matches('input:read-write')) field.blur()
}

// While the server reads it, the browser asks first.
addEventListener('beforeunload', (event) => {
  endEntry()
  if (underway.size) event.preventDefault()
})
