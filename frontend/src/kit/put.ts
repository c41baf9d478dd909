/** What a write has left, put where the pages read it. */
import type { QueryClient, QueryKey } from '@tanstack/vue-query'

/** What was asked for before may not know of it yet: it is asked for again. */
export function put<Data>(client: QueryClient, queryKey: QueryKey, data: Data) {
  client.setQueryData(queryKey, data)
  const one = { queryKey, exact: true }
  if (client.isFetching(one)) void client.refetchQueries(one)
}
