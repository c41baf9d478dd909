/** Somebody is let in: what was refused before, or still will be, is asked for again. */
import { useQueryClient } from '@tanstack/vue-query'
import type { Me } from '../../api/client'
import { isNow } from '../../kit/me'

export function useComingIn() {
  const client = useQueryClient()
  return async (found: Me) => {
    isNow(found)
    await client.resetQueries()
  }
}
