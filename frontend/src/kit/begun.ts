/** What somebody has begun to write and not kept: it still stands there when he is back. */
import { useSessionStorage } from '@vueuse/core'
import { computed, type WritableComputedRef } from 'vue'

const begun = useSessionStorage('vivid-arm.begun', new Map<string, string>())

/** The text begun at a place, in this tab; empty once it is kept, or left on purpose. */
export const useBegun = (place: () => string): WritableComputedRef<string> =>
  computed({
    get: () => begun.value.get(place()) ?? '',
    set(text) {
      if (text) begun.value.set(place(), text)
      else begun.value.delete(place())
    },
  })
