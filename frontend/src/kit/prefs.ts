/** What this browser remembers of its user: unit, light or dark, name. */
import { createGlobalState, useDark, useStorage } from '@vueuse/core'
import { computed } from 'vue'
import type { Unit } from './format'
import { me } from './me'

/** Until somebody chooses: the trade measures in inches where English is spoken. */
const usual: Unit = navigator.language.startsWith('en') ? 'in' : 'mm'

export const usePrefs = createGlobalState(() => {
  const said = useStorage('vivid-arm.by', '')
  return {
    unit: useStorage<Unit>('vivid-arm.unit', usual),
    /** Who measures and signs: whoever is signed in, else as it was said here. */
    by: computed({
      get: () => me.value.name ?? said.value,
      set: (name: string) => (said.value = name),
    }),
    dark: useDark({ storageKey: 'vivid-arm.theme' }),
  }
})
