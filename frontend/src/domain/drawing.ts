import { apply, type Affine, type Point } from './affine'

/** What the hand is doing on the sheet. Points are in view coordinates: points of the page, y down. */
export type Gesture =
  | { kind: 'idle' }
  | { kind: 'pen'; pen: PenKind }
  | { kind: 'dragging'; pen: 'cloud'; from: Point; to: Point }

export type PenKind = 'cloud' | 'pin'

export type Stroke = { kind: PenKind; points: Point[] }

/** A cloud smaller than this (points) was a slip of the hand. */
const LEAST = 8

export function press(gesture: Gesture, at: Point): Gesture {
  if (gesture.kind === 'pen' && gesture.pen === 'cloud')
    return { kind: 'dragging', pen: 'cloud', from: at, to: at }
  return gesture
}

export function drag(gesture: Gesture, at: Point): Gesture {
  return gesture.kind === 'dragging' ? { ...gesture, to: at } : gesture
}

/** What was drawn when the hand lets go, if anything; the pen stays up. */
export function release(gesture: Gesture, at: Point): { gesture: Gesture; stroke: Stroke | null } {
  if (gesture.kind === 'pen' && gesture.pen === 'pin')
    return { gesture, stroke: { kind: 'pin', points: [at] } }
  if (gesture.kind !== 'dragging') return { gesture, stroke: null }
  const back: Gesture = { kind: 'pen', pen: 'cloud' }
  const outline = rectangle(gesture.from, at)
  const [from, to] = [gesture.from, at]
  const slip = Math.abs(to[0] - from[0]) < LEAST || Math.abs(to[1] - from[1]) < LEAST
  return { gesture: back, stroke: slip ? null : { kind: 'cloud', points: outline } }
}

export function rectangle([x0, y0]: Point, [x1, y1]: Point): Point[] {
  return [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ]
}

/** Points carried through a matrix. */
export function carried(points: readonly Point[], matrix: Affine): Point[] {
  return points.map((point) => apply(matrix, point))
}

/** The middle of some points. */
export function centre(points: readonly Point[]): Point {
  const xs = points.map(([x]) => x)
  const ys = points.map(([, y]) => y)
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2]
}
