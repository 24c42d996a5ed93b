import { describe, expect, it } from 'vitest'

import { partsOf } from './guestLive'

describe('a stream of server-sent events', () => {
  it('is taken apart, and what is not whole is left', () => {
    const text = 'retry: 1000\nid: a\nevent: start\ndata: a\n\n: still here\n\nevent: change\ndata: {"x'
    expect(partsOf(text)).toEqual([[['start', 'a']], 'event: change\ndata: {"x'])
  })

  it('goes on where it was cut', () => {
    const [, rest] = partsOf('event: here\nda')
    expect(partsOf(`${rest}ta: {}\n\n`)).toEqual([[['here', '{}']], ''])
  })
})
