import type { QueryClient } from '@tanstack/react-query'

import type { Key } from './keys'

/**
 * Fetches what has changed once more, a key at a time: while one fetch is on its way, any number of further changes ask
 * for one more after it. Many changes in a row neither keep a fetch from ever ending nor leave an old answer standing.
 */
export function fetcher(client: QueryClient): (key: Key) => void {
  const again = new Map<Key, boolean>()

  async function fetchWhileAsked(key: Key) {
    do {
      again.set(key, false)
      // What a fetch that failed is shown as is its own page's matter.
      await client.invalidateQueries({ queryKey: [key] }).catch(() => undefined)
    } while (again.get(key))
    again.delete(key)
  }

  return (key) => {
    if (again.has(key)) again.set(key, true)
    else void fetchWhileAsked(key)
  }
}
