/** What somebody has begun to write and not kept: it still stands there when he is back. */
import { useSessionStorage } from '@vueuse/core'
import { computed, type WritableComputedRef } from 'vue'

const begun = useSessionStorage<Record<string, string>>('vivid-arm.begun', {})

/** The text begun at a place, in this tab; empty once it is kept, or left on purpose. */
export const useBegun = (place: () => string): WritableComputedRef<string> =>
  computed({
    get: () => begun.value[place()] ?? '',
    set(text) {
      const { [place()]: _, ...others } = begun.value
      begun.value = text ? { ...others, [place()]: text } : others
    },
  })
