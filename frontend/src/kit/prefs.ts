/** What this browser remembers of its user: unit, light or dark, name. */
import { createGlobalState, useDark, useStorage } from '@vueuse/core'
import type { Unit } from './format'

export const usePrefs = createGlobalState(() => ({
  unit: useStorage<Unit>('vivid-arm.unit', 'in'),
  by: useStorage('vivid-arm.by', ''),
  dark: useDark({ storageKey: 'vivid-arm.theme' }),
}))
