/** The mark being entered, shared by its fields and the drawn tip. */
import { computed, ref, type Ref } from 'vue'
import { usePrefs } from '../../kit/prefs'
import { decimal } from '../../kit/words'

export function useDraft(stem: Ref<number>) {
  const { unit } = usePrefs()
  const low = ref('')
  const high = ref('')
  const from = ref<'middle' | 'edge'>('middle')
  const shift = () => (from.value === 'edge' ? stem.value / 2 : 0)

  /** Only for the drawing: the server reads what is typed. */
  function roughly(text: string): number | null {
    const value = Number(text.trim().replace(',', '.').split(/\s/)[0])
    if (!text.trim() || Number.isNaN(value)) return null
    const inches = /thou/.test(text)
      ? value / 1000
      : unit.value === 'mm' || /mm/.test(text)
        ? value / 25.4
        : value
    return inches - shift()
  }
  const edges = computed(() => ({ low: roughly(low.value), high: roughly(high.value) }))

  /** Write an edge moved on the drawing into its field. */
  function drag(side: 'low' | 'high', inches: number) {
    const value = inches + shift()
    const text = decimal(unit.value === 'mm' ? (value * 25.4).toFixed(2) : value.toFixed(3))
    if (side === 'low') low.value = text
    else high.value = text
  }
  return { low, high, from, edges, drag }
}
