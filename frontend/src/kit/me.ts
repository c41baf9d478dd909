/** Whoever is signed in here, on a shop with accounts; on one without, whoever is here. */
import { computed, ref } from 'vue'
import { answer, api, whenSignedOut, type Me } from '../api/client'

export const me = ref<Me>({ accounts: false, first: false, name: null, role: null, rights: [] })
/** Nobody is let in before somebody has signed in. */
export const locked = computed(() => me.value.accounts && !me.value.name)

whenSignedOut(() => {
  if (me.value.name || !me.value.accounts)
    me.value = { ...me.value, accounts: true, name: null, role: null, rights: [] }
})

export async function askMe() {
  me.value = await answer(api.GET('/api/me'))
}
