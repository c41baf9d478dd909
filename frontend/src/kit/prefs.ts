/** What this browser remembers of its user: unit, light or dark, name. */
import { createGlobalState, useDark, useStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import type { Unit } from './format'
import { me } from './me'
import { tellServer } from './words'

/** Until somebody chooses: the trade measures in inches where English is spoken. */
const usual: Unit = navigator.language.startsWith('en') ? 'in' : 'mm'
const KEPT = 'vivid-arm.unit'
// Before anything is asked.
tellServer('unit', localStorage.getItem(KEPT) ?? usual)

export const usePrefs = createGlobalState(() => {
  const said = useStorage('vivid-arm.by', '')
  const unit = useStorage<Unit>(KEPT, usual)
  watch(unit, (now) => tellServer('unit', now), { flush: 'sync' })
  return {
    unit,
    /** Who measures and signs: whoever is signed in, else as it was said here. */
    by: computed({
      get: () => me.value.name ?? said.value,
      set: (name: string) => (said.value = name),
    }),
    // Its way of stopping transitions styles the whole page anew, twice at every opening.
    dark: useDark({ storageKey: 'vivid-arm.theme', disableTransition: false }),
  }
})
