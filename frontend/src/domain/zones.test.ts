import { describe, expect, it } from 'vitest'

import { nudge, toBox, toZone, type Box } from './zones'

const A3 = { width: 420, height: 297 }

describe('a zone', () => {
  it('is measured from the nearest corner, whichever way it was drawn', () => {
    expect(toZone([410, 287, 320, 273], A3)).toEqual({
      corner: 'lower right',
      across_mm: 10,
      down_mm: 10,
      width_mm: 90,
      height_mm: 14,
    })
    expect(toZone([5, 6, 25, 16], A3).corner).toBe('upper left')
    expect(toZone([400, 6, 410, 16], A3).corner).toBe('upper right')
    expect(toZone([5, 280, 25, 290], A3).corner).toBe('lower left')
  })

  it('is the same box again', () => {
    const boxes: Box[] = [
      [320, 273, 410, 287],
      [5, 6, 25, 16],
      [5, 280, 25, 290],
    ]
    for (const box of boxes) expect(toBox(toZone(box, A3), A3)).toEqual(box)
  })

  it('is moved and resized by the keyboard, and never vanishes', () => {
    const zone = toZone([320, 273, 410, 287], A3)
    expect(toBox(nudge(zone, A3, 1, -1, false), A3)).toEqual([321, 272, 411, 286])
    expect(toBox(nudge(zone, A3, -500, -500, true), A3)).toEqual([320, 273, 321, 274])
  })
})
