/** Whoever is signed in here, on a shop with accounts; on one without, whoever is here. */
import { computed, ref } from 'vue'
import { answer, api, whenSignedOut, type Me } from '../api/client'

export const me = ref<Me>({ accounts: false, first: false, name: null, role: null, rights: [] })
/** Nobody is let in before somebody has signed in. */
export const locked = computed(() => me.value.accounts && !me.value.name)

/** Of several answers the one that was asked for last holds. */
let asked = 0
/** Somebody has come in or gone: what was asked before that says nothing any more. */
export function isNow(found: Me) {
  asked += 1
  me.value = found
}
export async function askMe() {
  const own = ++asked
  const found = await answer(api.GET('/api/me'))
  if (own === asked) me.value = found
}
// A refusal may be older than the sign-in: it is asked who is here.
whenSignedOut(() => void askMe().catch(() => undefined))
