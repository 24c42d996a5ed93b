import { describe, expect, it } from 'vitest'

import { asked, clean, readSearch, sortedBy, viewOf } from './registerSearch'

describe('a view in the address', () => {
  it('keeps what is a view and leaves the rest', () => {
    const hostile = {
      words: 'hall',
      filters: [['status', 'is', 'S3'], 'nonsense', [1, 2]],
      sorts: 'title',
      columns: [
        ['number', 120],
        ['title', 'wide'],
      ],
      frozen: 1,
      look: 'cards',
      password: 'x',
    }
    expect(readSearch(hostile)).toEqual({
      words: 'hall',
      filters: [['status', 'is', 'S3']],
      columns: [['number', 120]],
      frozen: 1,
    })
  })

  it('says nothing of what is usual', () => {
    expect(clean({ words: '', filters: [], frozen: 0, group: undefined })).toEqual({})
  })

  it('is kept without the document that is open', () => {
    expect(viewOf({ words: 'hall', document: 'abc' })).toEqual({ words: 'hall' })
  })

  it('goes to the server as JSON; shut groups only where there are groups', () => {
    expect(asked({ filters: [['title', 'has', 'a,b']], shut: ['A'] })).toEqual({
      words: '',
      filters: '[["title","has","a,b"]]',
      sorts: '',
      group: '',
      shut: '',
    })
    expect(asked({ group: 'status', shut: ['S3'] }).shut).toBe('["S3"]')
  })
})

describe('sorting by heads', () => {
  it('sorts by one column, and turns it on the second click', () => {
    expect(sortedBy(undefined, 'title', false)).toEqual([['title', 'up']])
    expect(sortedBy([['title', 'up']], 'title', false)).toEqual([['title', 'down']])
    expect(sortedBy(undefined, 'number', false)).toEqual([['number', 'down']])
  })

  it('adds a column behind the others, and turns it where it stands', () => {
    const two = sortedBy([['status', 'up']], 'title', true)
    expect(two).toEqual([
      ['status', 'up'],
      ['title', 'up'],
    ])
    expect(sortedBy(two, 'status', true)).toEqual([
      ['status', 'down'],
      ['title', 'up'],
    ])
  })
})
