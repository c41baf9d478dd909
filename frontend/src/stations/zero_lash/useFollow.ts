/** A page in bench mode that goes where another device is: the tablet on the wall. */
import { useSessionStorage } from '@vueuse/core'
import { computed, watch, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { useOthers } from '../../kit/whereabouts'

export function useFollow(shown: Ref<boolean>) {
  const router = useRouter()
  const elsewhere = useOthers()
  const follows = useSessionStorage('vivid-arm.follows', '')
  const followed = computed(() =>
    shown.value ? (elsewhere.value.find((seen) => seen.id === follows.value) ?? null) : null,
  )
  watch(
    () => [followed.value?.build_id, followed.value?.valve_id] as const,
    ([buildId, valveId]) => {
      if (buildId && valveId)
        void router.replace({ name: 'zero_lash', params: { buildId, valveId } })
    },
  )
  return { followed, elsewhere, follows }
}
