/** What is below the first view comes once that view has been painted. */
import { ref, watch, type Ref } from 'vue'

/** What a page may ask for later is asked for when it has stood this long. */
export const IDLE_MS = 1500

/** False until what `ready` stands for has been painted. */
export function useAfterPaint(ready: () => unknown): Ref<boolean> {
  const painted = ref(false)
  watch(
    () => Boolean(ready()),
    (now) => {
      if (now) requestAnimationFrame(() => setTimeout(() => (painted.value = true), 60))
    },
    { immediate: true, flush: 'post' },
  )
  return painted
}
