import { describe, expect, it } from 'vitest'

import type { Point } from './affine'
import {
  around,
  caught,
  centre,
  drag,
  finish,
  IDLE,
  PEN,
  press,
  rectangle,
  release,
  type Gesture,
  type MarkKind,
} from './drawing'
import { handlesOf, linesOfWords, nearestEdge, reshaped, shapePath } from './shapes'

const PER_MM = 72 / 25.4
const KINDS: MarkKind[] = [
  'cloud', 'rectangle', 'ellipse', 'line', 'arrow', 'polyline', 'polygon', 'freehand', 'highlight', 'text', 'callout',
  'pin', 'stamp', 'symbol', 'count',
] // prettier-ignore

function stroke(pen: MarkKind, ...way: Point[]) {
  const [from = [0, 0], ...rest] = way
  let gesture: Gesture = press(PEN, pen, from)
  for (const at of rest) gesture = drag(gesture, at)
  return release(gesture, pen, way[way.length - 1] ?? from, PER_MM)
}

function clicks(pen: MarkKind, ...places: Point[]) {
  let now: { gesture: Gesture; points: Point[] | null } = { gesture: PEN, points: null }
  for (const at of places) now = release(press(now.gesture, pen, at), pen, at, PER_MM)
  return now
}

describe('drawing by a drag', () => {
  it('makes a cloud of four corners and keeps the pen up', () => {
    expect(stroke('cloud', [10, 10], [50, 60], [90, 80])).toEqual({
      gesture: PEN,
      points: rectangle([10, 10], [90, 80]),
    })
  })

  it.each(['rectangle', 'ellipse', 'highlight', 'line', 'arrow', 'text', 'stamp'] as const)(
    'makes a %s of two points',
    (pen) => expect(stroke(pen, [10, 10], [90, 80]).points).toEqual([[10, 10], [90, 80]]), // prettier-ignore
  )

  it('takes a slip of the hand for nothing', () => {
    expect(stroke('rectangle', [10, 10], [12, 90]).points).toBeNull()
  })

  it('makes a box of usual size where text was only clicked', () => {
    expect(stroke('text', [10, 10], [11, 11]).points?.[1]?.[0]).toBeCloseTo(10 + 50 * PER_MM)
  })

  it('puts the box of a callout on the side to which the hand went', () => {
    const [corner, opposite, tip] = stroke('callout', [300, 300], [100, 100]).points ?? []
    expect([corner, tip]).toEqual([[100, 100], [300, 300]]) // prettier-ignore
    expect(opposite?.[0]).toBeLessThan(100)
  })

  it('follows a free hand, leaving out what is finer than 0.3 mm', () => {
    const { points } = stroke('freehand', [0, 0], [0.2, 0.2], [5, 5], [9, 2])
    expect(points).toEqual([[0, 0], [5, 5], [9, 2]]) // prettier-ignore
    expect(stroke('freehand', [0, 0]).points).toBeNull()
  })

  it('does nothing without a pen', () => {
    const none = release(drag(press(IDLE, 'cloud', [1, 1]), [9, 9]), 'cloud', [9, 9], PER_MM)
    expect(none).toEqual({ gesture: IDLE, points: null })
  })
})

describe('drawing point by point', () => {
  it('places a pin where the hand lets go', () => {
    expect(stroke('pin', [1, 1], [5, 6]).points).toEqual([[5, 6]])
  })

  it('ends a polygon where its last point is pressed again', () => {
    const open = clicks('polygon', [0, 0], [50, 0], [50, 50])
    expect(open.points).toBeNull()
    expect(clicks('polygon', [0, 0], [50, 0], [50, 50], [51, 51]).points).toEqual([[0, 0], [50, 0], [50, 50]]) // prettier-ignore
  })

  it('ends it by Enter, and leaves what has too few points', () => {
    expect(finish(clicks('polygon', [0, 0], [50, 0]).gesture, 'polygon')).toEqual({
      gesture: PEN,
      points: null,
    })
    expect(finish(clicks('polyline', [0, 0], [50, 0]).gesture, 'polyline').points).toHaveLength(2)
    expect(finish(IDLE, 'polyline').points).toBeNull()
  })

  it('takes a press that kept still for a click, also when it catches a corner on the way', () => {
    const pressed = press(PEN, 'distance', [10, 10])
    const caughtSince = release(pressed, 'distance', [30, 10], PER_MM, true)
    expect(caughtSince).toEqual({ gesture: { kind: 'placing', points: [[30, 10]], to: [30, 10] }, points: null }) // prettier-ignore
    expect(release(pressed, 'distance', [30, 10], PER_MM, false).points).toEqual([[10, 10], [30, 10]]) // prettier-ignore
    expect(release(press(PEN, 'rectangle', [10, 10]), 'rectangle', [30, 40], PER_MM, true).points).toBeNull()
  })

  it('draws a cloud corner by corner when it was not dragged, and a line by two clicks', () => {
    const cloud = clicks('cloud', [0, 0], [80, 0], [80, 80]).gesture
    expect(finish(cloud, 'cloud').points).toHaveLength(3)
    expect(clicks('line', [0, 0], [80, 10]).points).toEqual([[0, 0], [80, 10]]) // prettier-ignore
  })

  it('counts the same place as often as it is pressed', () => {
    expect(finish(clicks('count', [5, 5], [5, 5], [9, 9]).gesture, 'count').points).toHaveLength(3)
  })
})

describe('shapes', () => {
  const square: Point[] = [[0, 0], [100, 60]] // prettier-ignore

  it.each(KINDS)('of kind %s have a usual size, a path and handles that reshape', (kind) => {
    const points = around(kind, [200, 200], PER_MM)
    expect(shapePath(kind, points, 20, 10)).toMatch(/^M/)
    const handles = handlesOf(kind, points)
    handles.forEach((at, handle) => {
      const to: Point = [at[0] + 3, at[1] - 4]
      const moved = reshaped(kind, points, handle, to)
      expect(moved).toHaveLength(points.length)
      expect(handlesOf(kind, moved)).toContainEqual(to)
    })
  })

  it('keep the opposite corner of a box while one is dragged', () => {
    expect(reshaped('rectangle', square, 1, [120, -10])).toEqual([[0, 60], [120, -10]]) // prettier-ignore
  })

  it('attach a leader to the nearest side', () => {
    expect(nearestEdge([0, 0], [100, 60], [300, 30])).toEqual([100, 30])
    expect(nearestEdge([0, 0], [100, 60], [40, 500])).toEqual([50, 60])
  })

  it('have a middle, and are caught as a whole or not', () => {
    expect(centre(square)).toEqual([50, 30])
    expect(caught(square, [101, 61], [-1, -1])).toBe(true)
    expect(caught(square, [-1, -1], [99, 61])).toBe(false)
  })
})

describe('lines of words', () => {
  const boxes: Point[] = [
    [10, 20],
    [110, 40],
    [10, 50],
    [60, 70],
  ]
  const levels = (manner: string) =>
    [...linesOfWords(boxes, manner).matchAll(/[ML][\d.]+ ([\d.]+)/g)].map((found) => Number(found[1]))

  it('lie near the lower edge, or in the middle, of each box', () => {
    expect(levels('underline')).toEqual([38.6, 38.6, 68.6, 68.6])
    expect(levels('strikeout')).toEqual([30, 30, 60, 60])
  })

  it('go up and down in a wave, and never out of the box', () => {
    const heights = levels('squiggly')
    expect(new Set(heights).size).toBeGreaterThan(2)
    expect(heights.every((y) => (y > 20 && y < 40) || (y > 50 && y < 70))).toBe(true)
  })
})
