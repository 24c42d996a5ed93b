import { describe, expect, it } from 'vitest'

import type { Schemas } from '../../../api/client'
import { withTold } from './toldMarks'

type Mark = Schemas['Mark']

const mark = (id: string, minute: number, more: Partial<Mark> = {}) =>
  ({ id, version: 1, rank: 0, drawn_at: `2027-03-01T10:0${minute}:00Z`, first_place: null, ...more }) as Mark
const ids = (marks: readonly Mark[] | null) => marks?.map((each) => each.id)

const SHEET = [mark('a', 1), mark('b', 3), mark('top', 2, { rank: 1 })]
const FIRST = { mark: 'x', revision_id: 'r0', revision: 'P01' }

describe('marks that an event has brought', () => {
  it('stand in the place of what they were', () => {
    const now = withTold(SHEET, [mark('b', 3, { version: 2, text: 'new' })], [])
    expect(ids(now)).toEqual(['a', 'b', 'top'])
    expect(now?.[1]?.text).toBe('new')
  })

  it('do not bring back what is older than what is known', () => {
    const known = [mark('a', 1, { version: 3, text: 'mine' })]
    expect(withTold(known, [mark('a', 1, { version: 2, text: 'old' })], [])?.[0]?.text).toBe('mine')
  })

  it('come in where they lie: by rank, then by when they were drawn', () => {
    expect(ids(withTold(SHEET, [mark('between', 2)], []))).toEqual(['a', 'between', 'b', 'top'])
    expect(ids(withTold(SHEET, [mark('last', 9)], []))).toEqual(['a', 'b', 'last', 'top'])
    expect(ids(withTold(SHEET, [mark('a', 1, { version: 2, rank: 2 })], []))).toEqual(['b', 'top', 'a'])
  })

  it('take away what is gone', () => {
    expect(ids(withTold(SHEET, [], ['a', 'never here']))).toEqual(['b', 'top'])
  })

  it('are left to be fetched where their order cannot be told from them', () => {
    expect(withTold(SHEET, [mark('carried', 1, { first_place: FIRST })], [])).toBeNull()
    expect(withTold(SHEET, [mark('same moment', 3)], [])).toBeNull()
    expect(withTold([mark('carried', 0, { first_place: FIRST })], [mark('new', 5)], [])).toBeNull()
    // What is known already only changes.
    const carried = [mark('carried', 0, { first_place: FIRST })]
    expect(ids(withTold(carried, [mark('carried', 0, { first_place: FIRST, version: 2 })], []))).toEqual([
      'carried',
    ])
  })
})
