import { act, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import type { Mark } from './useMarks'
import { TOGETHER_MS, useGathered } from './useGathered'

const mark = (id: string, version = 1) => ({ id, version }) as Mark
const ids = (marks: readonly Mark[]) => marks.map((each) => each.id)

describe('marks that are told one on the heels of another', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => vi.useRealTimers())

  function listen() {
    const taken: [string[], string[]][] = []
    const hook = renderHook(() => useGathered((told, gone) => taken.push([ids(told), [...gone]])))
    // As long after the page began as any.
    vi.advanceTimersByTime(TOGETHER_MS)
    return { taken, tell: hook.result.current, leave: hook.unmount }
  }

  it('are taken at once, and then together', () => {
    const { taken, tell } = listen()
    act(() => tell([mark('a')], []))
    act(() => tell([mark('b')], []))
    act(() => tell([mark('c')], []))
    expect(taken).toEqual([[['a'], []]])
    act(() => void vi.advanceTimersByTime(TOGETHER_MS))
    expect(taken.slice(1)).toEqual([[['b', 'c'], []]])
  })

  it('are not brought back by what was told before they went, and are by what was told after', () => {
    const { taken, tell } = listen()
    act(() => tell([], ['z']))
    act(() => tell([mark('a'), mark('b')], []))
    act(() => tell([], ['a', 'b']))
    act(() => tell([mark('b', 3)], []))
    act(() => void vi.advanceTimersByTime(TOGETHER_MS))
    expect(taken.at(-1)).toEqual([['b'], ['a', 'b']])
  })

  it('are taken before the sheet is left', () => {
    const { taken, tell, leave } = listen()
    act(() => tell([mark('a')], []))
    act(() => tell([mark('b')], []))
    leave()
    expect(taken.at(-1)).toEqual([['b'], []])
  })
})
