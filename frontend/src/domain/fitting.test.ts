import { describe, expect, it } from 'vitest'

import { fitting } from './fitting'

describe('what fits into a row', () => {
  it.each([
    ['all where there is room', [10, 20, 30], 0, 60, 15, [0, 1, 2]],
    ['from the left, with room for the way to the others', [10, 20, 30], 0, 59, 15, [0, 1]],
    ['the one that one is at, wherever it stands', [10, 20, 30], 2, 55, 15, [0, 2]],
    ['that one alone', [10, 20, 30], 2, 20, 15, [2]],
    ['none of them', [10, 20, 30], -1, 20, 15, []],
    ['one after a gap is not shown: they keep their order', [10, 50, 5], 0, 40, 15, [0]],
  ])('%s', (_, widths, here, room, more, shown) => {
    expect(fitting(widths, here, room, more)).toEqual(shown)
  })
})
