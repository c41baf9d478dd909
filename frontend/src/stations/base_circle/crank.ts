/** Where the builder's crank stands, degrees of the 720 cycle; kept in this browser. */
import { useStorage } from '@vueuse/core'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

export function useCrank(build: MaybeRefOrGetter<string>) {
  const kept = useStorage<Record<string, number>>('vivid-arm.crank', {})
  const crank = computed(() => kept.value[toValue(build)] ?? 0)
  function turn(to: number) {
    const tenths = Math.round(to * 10) / 10
    kept.value = { ...kept.value, [toValue(build)]: ((tenths % 720) + 720) % 720 }
  }
  return { crank, turn }
}
