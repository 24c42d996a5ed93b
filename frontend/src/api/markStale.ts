import type { QueryClient, QueryKey } from '@tanstack/react-query'

/**
 * Fetches again whatever is shown under a key, or all. An answer that is on its way for the first time may have been
 * worked out before the change: the client lets it stand and asks no more, so it is asked for once more when it is there.
 */
export async function markStale(client: QueryClient, queryKey?: QueryKey): Promise<void> {
  const which = queryKey ? { queryKey } : {}
  const onItsWay = client
    .getQueryCache()
    .findAll(which)
    .some(({ state }) => state.fetchStatus === 'fetching' && state.data === undefined)
  await client.invalidateQueries(which)
  if (onItsWay) await client.invalidateQueries(which)
}
