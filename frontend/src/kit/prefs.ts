/** What this browser remembers of its user: unit, light or dark, name. */
import { createGlobalState, useDark, useStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import type { Unit } from './format'
import { me } from './me'
import { tellServer, UNIT_KEPT, usualUnit } from './spoken'

export const usePrefs = createGlobalState(() => {
  const said = useStorage('vivid-arm.by', '')
  const unit = useStorage<Unit>(UNIT_KEPT, usualUnit)
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
