import { QueryClient, QueryObserver } from '@tanstack/react-query'
import { describe, expect, it, vi } from 'vitest'

import { fetcher } from './fetchAgain'

const withNothing = (invalidateQueries: unknown) =>
  ({ invalidateQueries, getQueryCache: () => ({ findAll: () => [] }) }) as unknown as QueryClient

function slowClient() {
  const ends: (() => void)[] = []
  const invalidateQueries = vi.fn(() => new Promise<void>((resolve) => ends.push(resolve)))
  return { client: withNothing(invalidateQueries), invalidateQueries, ends }
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
    const fetchAgain = fetcher(withNothing(invalidateQueries))
    fetchAgain(['marks', 'r1'])
    await settled()
    fetchAgain(['marks', 'r1'])
    await settled()
    expect(invalidateQueries).toHaveBeenCalledTimes(2)
  })

  it('once more where the first answer was on its way, and may be of before', async () => {
    const client = new QueryClient()
    const answers = ['before', 'after']
    const ends: (() => void)[] = []
    const observer = new QueryObserver(client, {
      queryKey: ['review', 'r1'],
      queryFn: async () => {
        const answer = answers.shift()
        await new Promise<void>((resolve) => ends.push(resolve))
        return answer
      },
    })
    const stop = observer.subscribe(() => undefined)
    await settled()
    fetcher(client)(['review', 'r1'])
    ends.shift()?.()
    await settled()
    await settled()
    ends.shift()?.()
    await settled()
    expect(observer.getCurrentResult().data).toBe('after')
    stop()
  })
})
