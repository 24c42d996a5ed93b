import type { QueryClient } from '@tanstack/react-query'
import { describe, expect, it, vi } from 'vitest'

import { fetcher } from './fetchAgain'

function slowClient() {
  const ends: (() => void)[] = []
  const invalidateQueries = vi.fn(() => new Promise<void>((resolve) => ends.push(resolve)))
  return { client: { invalidateQueries } as unknown as QueryClient, invalidateQueries, ends }
}

const settled = () => new Promise((resolve) => setTimeout(resolve))

describe('what changed is fetched again', () => {
  it('once after any number of changes that come while it is fetched', async () => {
    const { client, invalidateQueries, ends } = slowClient()
    const fetchAgain = fetcher(client)
    for (let change = 0; change < 50; change++) fetchAgain(['marks', 'r1'])
    expect(invalidateQueries).toHaveBeenCalledTimes(1)
    ends.shift()?.()
    await settled()
    expect(invalidateQueries).toHaveBeenCalledTimes(2)
    ends.shift()?.()
    await settled()
    expect(invalidateQueries).toHaveBeenCalledTimes(2)
    fetchAgain(['marks', 'r1'])
    expect(invalidateQueries).toHaveBeenCalledTimes(3)
  })

  it('each thing for itself: a slow one keeps no other waiting', () => {
    const { client, invalidateQueries } = slowClient()
    const fetchAgain = fetcher(client)
    for (const key of ['trail', 'marks', 'trail', 'marks'] as const) fetchAgain([key])
    expect(invalidateQueries.mock.calls).toEqual([[{ queryKey: ['trail'] }], [{ queryKey: ['marks'] }]])
  })

  it('also after a fetch that failed', async () => {
    const invalidateQueries = vi.fn(() => Promise.reject(new Error('the line is broken')))
    const fetchAgain = fetcher({ invalidateQueries } as unknown as QueryClient)
    fetchAgain(['marks', 'r1'])
    await settled()
    fetchAgain(['marks', 'r1'])
    await settled()
    expect(invalidateQueries).toHaveBeenCalledTimes(2)
  })
})
