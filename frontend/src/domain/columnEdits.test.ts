import { describe, expect, it } from 'vitest'

import { fillDown, pasteDown, pastedLines, replaceAll } from './columnEdits'

const CELLS = [
  { id: 'a', value: 'P01' },
  { id: 'b', value: 'p01 (P01)' },
  { id: 'c', value: '' },
]

describe('a column', () => {
  it('takes the first column of what a spreadsheet copies, quotes and line ends of all kinds put right', () => {
    expect(pastedLines('P01\tS3\r\n"P02, ""new"""\r\n\r\nP04\r\n')).toEqual(['P01', 'P02, "new"', '', 'P04'])
    expect(pastedLines('one')).toEqual(['one'])
  })

  it('is pasted from a cell on, and not beyond its end', () => {
    expect(pasteDown(CELLS, 1, ['x', 'y', 'z'])).toEqual([
      { id: 'b', value: 'x' },
      { id: 'c', value: 'y' },
    ])
    expect(pasteDown(CELLS, 0, ['P01'])).toEqual([])
  })

  it('is filled down from its first cell', () => {
    expect(fillDown(CELLS).map(({ id }) => id)).toEqual(['b', 'c'])
    expect(fillDown([])).toEqual([])
  })

  it('is searched for plain text: signs of a pattern mean themselves', () => {
    expect(replaceAll(CELLS, 'P01', 'P02', true)).toEqual([
      { id: 'a', value: 'P02' },
      { id: 'b', value: 'p01 (P02)' },
    ])
    expect(replaceAll(CELLS, '(P01)', '$&', false)).toEqual([{ id: 'b', value: 'p01 $&' }])
    expect(replaceAll(CELLS, '', 'x', false)).toEqual([])
  })
})
