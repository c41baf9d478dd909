/** A refused entry stays in its field, marked and chosen, so that the next key types over it. */
import { nextTick, watch, type Ref } from 'vue'
import type { Problem } from '../api/client'

/** What a field says of itself while it is refused: for whoever hears the page. */
export const refusedBy = (id: string, problem: Problem | null) =>
  problem ? { 'aria-invalid': 'true' as const, 'aria-describedby': `${id}-why` } : {}

/** Choose what was typed once it is refused, where the field still has the focus. */
export function chooseRefused(id: string, problem: Ref<Problem | null>): void {
  watch(problem, async (now) => {
    if (!now) return
    await nextTick()
    const field = document.getElementById(id)
    if (field instanceof HTMLInputElement && field === document.activeElement) field.select()
  })
}
