import { describe, expect, it } from 'vitest'

import { boundsOf, isInside, moved, type Selection } from './rectangle'

const at = (row: number, column: number): Selection => ({ anchor: { row, column }, focus: { row, column } })

describe('a selection in a grid', () => {
  it.each([
    ['ArrowDown', 3, 2],
    ['ArrowUp', 1, 2],
    ['ArrowLeft', 2, 1],
    ['ArrowRight', 2, 3],
    ['Home', 2, 0],
    ['End', 2, 4],
    ['PageDown', 9, 2],
    ['PageUp', 0, 2],
  ])('moves with %s and stays in the grid', (key, row, column) => {
    expect(moved(at(2, 2), key, false, 10, 5)).toEqual(at(row, column))
  })

  it('grows with Shift, whichever way it is drawn', () => {
    const grown = moved(at(2, 2), 'ArrowUp', true, 10, 5)
    expect(grown && boundsOf(grown)).toEqual({ top: 1, bottom: 2, left: 2, right: 2 })
    expect(grown && isInside(boundsOf(grown), 1, 2)).toBe(true)
    expect(grown && isInside(boundsOf(grown), 3, 2)).toBe(false)
  })

  it('leaves other keys alone', () => {
    expect(moved(at(0, 0), 'x', false, 10, 5)).toBeNull()
  })
})
