/**
 * Gauges with a data cable: their values as they come, taken into the field in hand. A gauge that
 * types like a keyboard needs none of this.
 */
import { decimal } from './words'
import { createSharedComposable, useEventListener, useSessionStorage } from '@vueuse/core'
import {
  computed,
  onScopeDispose,
  ref,
  shallowRef,
  toValue,
  watch,
  type MaybeRefOrGetter,
} from 'vue'
import { answer, api, thisPage } from '../api/client'
import type { components } from '../api/schema'
import type { Unit } from './format'
import { onTold, type Happened } from './live'
import { me } from './me'

export type Live = components['schemas']['LiveOut']

export const useGauges = createSharedComposable(() => {
  const values = shallowRef<Record<string, Live>>({})
  const connected = ref(false)
  const machine = ref('')
  const field = shallowRef<HTMLInputElement | HTMLTextAreaElement | null>(null)
  let takes: ((value: Live) => void) | null = null

  function take(value: Live | null) {
    connected.value = value !== null
    if (value === null) values.value = {}
    else {
      values.value = { ...values.value, [value.name]: value }
      // A value taken goes to the page in sight, not into every tab; of several devices to one.
      const here = !document.hidden && (!me.value.accounts || holds.value)
      if (value.taken && here) takes?.(value)
    }
  }
  function lost() {
    connected.value = false
    values.value = {}
  }
  const told = (now: Happened) => now.what === 'gauge' && take(now.value as Live | null)
  onScopeDispose(onTold({ told, lost }))
  // Another tab may hold the stream: what stands on the gauges now is asked for once.
  void answer(api.GET('/api/gauges'))
    .then((now) => {
      connected.value ||= now.connected
      machine.value = now.machine
      const known = now.values.map((value) => [value.name, value] as const)
      values.value = { ...Object.fromEntries(known), ...values.value }
    })
    .catch(() => undefined)

  useEventListener(document, 'focusin', (event) => {
    const target = event.target
    const texts = target instanceof HTMLTextAreaElement || target instanceof HTMLInputElement
    if (texts && target.closest('main') && ['text', 'textarea', ''].includes(target.type))
      field.value = target
  })
  return {
    values,
    connected,
    machine,
    field,
    onTaken: (run: (value: Live) => void) => (takes = run),
  }
})

/** Whether the gauges' own button writes into this page, where several devices are in use. */
export const holds = useSessionStorage('vivid-arm.holds-gauges', false)
onTold({
  told: ({ what, page }) => {
    if (what === 'gauges' && page !== thisPage) holds.value = false
  },
})
export async function hold() {
  await answer(api.POST('/api/gauges/hold'))
  holds.value = true
}

/** How many parts of the page in view have a field that a gauge reads into. */
const wanting = ref(0)
export const gaugeWanted = computed(() => wanting.value > 0)

/** Say that a part has such a field, as long as it has one. */
export function wantGauge(here: MaybeRefOrGetter<boolean> = true): void {
  let counted = false
  const set = (now: boolean) => {
    if (now !== counted) wanting.value += now ? 1 : -1
    counted = now
  }
  watch(() => toValue(here), set, { immediate: true })
  onScopeDispose(() => set(false))
}

/** What is put into the field: always with its unit, so that nothing is left to guess. */
export function written(live: Live, unit: Unit): string {
  const inches = live.steady_in ?? live.value_in
  return unit === 'mm'
    ? decimal(`${(inches * 25.4).toFixed(3)} mm`)
    : decimal(`${inches.toFixed(4)} in`)
}

/** Type into a field as a person would, and press Enter (a list of lengths only grows). */
export function typeInto(field: HTMLInputElement | HTMLTextAreaElement, text: string): void {
  const long = field instanceof HTMLTextAreaElement
  const kind = long ? HTMLTextAreaElement : HTMLInputElement
  const now = long && field.value.trim() ? `${field.value.trimEnd()}; ${text}` : text
  Object.getOwnPropertyDescriptor(kind.prototype, 'value')?.set?.call(field, now)
  field.dispatchEvent(new Event('input', { bubbles: true }))
  if (!long)
    setTimeout(() => {
      const enter = { key: 'Enter', code: 'Enter', bubbles: true, cancelable: true }
      field.dispatchEvent(new KeyboardEvent('keydown', enter))
    }, 30)
}
