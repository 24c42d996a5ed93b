import type { QueryClient } from '@tanstack/react-query'

import type { Key } from './keys'
import { markStale } from './markStale'

/** The first part of a query key, or that and the thing it is of. */
export type Again = readonly [Key] | readonly [Key, string]

/**
 * Fetches what has changed once more, a key at a time: while one fetch is on its way, any number of further changes ask
 * for one more after it. Many changes in a row neither keep a fetch from ever ending nor leave an old answer standing.
 */
export function fetcher(client: QueryClient): (what: Again) => void {
  const again = new Map<string, boolean>()

  async function fetchWhileAsked(queryKey: Again, name: string) {
    do {
      again.set(name, false)
      // What a fetch that failed is shown as is its own page's matter.
      await markStale(client, queryKey).catch(() => undefined)
    } while (again.get(name))
    again.delete(name)
  }

  return (what) => {
    const name = what.join(' ')
    if (again.has(name)) again.set(name, true)
    else void fetchWhileAsked(what, name)
  }
}
