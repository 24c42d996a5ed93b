import { apply, type Affine, type Point } from './affine'

export type MarkKind =
  | 'cloud'
  | 'rectangle'
  | 'ellipse'
  | 'line'
  | 'arrow'
  | 'polyline'
  | 'polygon'
  | 'freehand'
  | 'highlight'
  | 'text'
  | 'callout'
  | 'pin'
  | 'stamp'
  | 'symbol'
  | 'count'
  | 'distance'
  | 'path'
  | 'area'
  | 'perimeter'
  | 'angle'

/**
 * What the hand is doing on the sheet, with a pen or without. Points are in view coordinates: points of the page, y
 * down. `placing` puts down one point after the other; `lasso` catches marks; `moving` carries those that are chosen,
 * `shaping` a handle of one.
 */
export type Gesture =
  | { kind: 'idle' }
  | { kind: 'pen' }
  | { kind: 'dragging'; from: Point; to: Point }
  | { kind: 'stroking'; points: readonly Point[] }
  | { kind: 'placing'; points: readonly Point[]; to: Point }
  | { kind: 'lasso'; from: Point; to: Point }
  | { kind: 'moving'; from: Point; to: Point }
  | { kind: 'shaping'; handle: number; from: Point; to: Point }

export const IDLE: Gesture = { kind: 'idle' }
export const PEN: Gesture = { kind: 'pen' }

/** A drag shorter than this (points) was a click. */
const LEAST = 8
/** The distance of two points of a freehand line, in points: 0.3 mm. */
const FINE = 0.85
const MOST_FREEHAND = 4000

const PLACED: ReadonlySet<MarkKind> = new Set([
  'polyline',
  'polygon',
  'count',
  'path',
  'area',
  'perimeter',
  'angle',
])
const AT_A_POINT: ReadonlySet<MarkKind> = new Set(['pin', 'symbol'])
/** Kinds that are drawn corner by corner when their first press was no drag. */
const BY_CORNERS: ReadonlySet<MarkKind> = new Set(['cloud', 'line', 'arrow', 'distance'])
const FEWEST: Partial<Record<MarkKind, number>> = {
  polygon: 3,
  cloud: 3,
  polyline: 2,
  line: 2,
  arrow: 2,
  count: 1,
  distance: 2,
  path: 2,
  area: 3,
  perimeter: 3,
  angle: 3,
}
/** Kinds that end by themselves when they have so many points. */
const ENDS: Partial<Record<MarkKind, number>> = { line: 2, arrow: 2, distance: 2, angle: 3 }

interface Released {
  gesture: Gesture
  points: Point[] | null
}

export function press(gesture: Gesture, pen: MarkKind, at: Point): Gesture {
  if (gesture.kind === 'placing') return { ...gesture, to: at }
  if (gesture.kind !== 'pen' || AT_A_POINT.has(pen)) return gesture
  if (PLACED.has(pen)) return { kind: 'placing', points: [], to: at }
  if (pen === 'freehand') return { kind: 'stroking', points: [at] }
  return { kind: 'dragging', from: at, to: at }
}

export function drag(gesture: Gesture, at: Point): Gesture {
  if (gesture.kind === 'stroking') {
    const last = gesture.points[gesture.points.length - 1] ?? at
    if (distance(last, at) < FINE || gesture.points.length >= MOST_FREEHAND) return gesture
    return { ...gesture, points: [...gesture.points, at] }
  }
  return 'to' in gesture ? { ...gesture, to: at } : gesture
}

/**
 * What was drawn when the hand lets go, if anything; the pen stays up. `perMm`: points to a millimetre of paper. A hand
 * that kept still has clicked, wherever `at` is: it may have caught hold of a corner since it was pressed.
 */
export function release(
  gesture: Gesture,
  pen: MarkKind,
  at: Point,
  perMm: number,
  keptStill = false,
): Released {
  if (gesture.kind === 'pen' && AT_A_POINT.has(pen)) return { gesture, points: [at] }
  if (gesture.kind === 'stroking')
    return { gesture: PEN, points: gesture.points.length > 1 ? [...gesture.points] : null }
  if (gesture.kind === 'placing') return place(gesture, pen, at)
  if (gesture.kind !== 'dragging') return { gesture, points: null }
  const from = keptStill ? at : gesture.from
  if (distance(from, at) < LEAST && BY_CORNERS.has(pen))
    return { gesture: { kind: 'placing', points: [from], to: at }, points: null }
  return { gesture: PEN, points: dragged(pen, from, at, perMm) }
}

function place(gesture: Gesture & { kind: 'placing' }, pen: MarkKind, at: Point): Released {
  const last = gesture.points[gesture.points.length - 1]
  if (last && pen !== 'count' && distance(last, at) < LEAST / 2) return finish(gesture, pen)
  const points = [...gesture.points, at]
  if (points.length === ENDS[pen]) return { gesture: PEN, points }
  return { gesture: { ...gesture, points, to: at }, points: null }
}

/** Ends a row of points: by Enter, or by pressing the last one again. */
export function finish(gesture: Gesture, pen: MarkKind): Released {
  if (gesture.kind !== 'placing') return { gesture, points: null }
  const enough = gesture.points.length >= (FEWEST[pen] ?? 2)
  return { gesture: PEN, points: enough ? [...gesture.points] : null }
}

/** The points of a mark that was drawn by one drag; null where it was a slip of the hand. */
function dragged(pen: MarkKind, from: Point, to: Point, perMm: number): Point[] | null {
  const flat = Math.abs(to[0] - from[0]) < LEAST || Math.abs(to[1] - from[1]) < LEAST
  const slip = distance(from, to) < LEAST
  if (pen === 'callout') return callout(from, slip ? add(from, [12 * perMm, -18 * perMm]) : to, perMm)
  if (pen === 'text' || pen === 'stamp')
    return flat ? [from, add(from, [(pen === 'text' ? 50 : 40) * perMm, 14 * perMm])] : [from, to]
  if (ENDS[pen] === 2) return [from, to]
  if (flat) return null
  return pen === 'cloud' ? rectangle(from, to) : [from, to]
}

/** Two corners of the box of text, and the tip of the leader. */
function callout(tip: Point, corner: Point, perMm: number): Point[] {
  const across = corner[0] < tip[0] ? -45 : 45
  return [corner, add(corner, [across * perMm, 12 * perMm]), tip]
}

/** A mark of usual size around a place, for those who draw by the keyboard. */
export function around(pen: MarkKind, [x, y]: Point, perMm: number): Point[] {
  const half = 20 * perMm
  const [from, to]: [Point, Point] = [
    [x - half, y - half / 2],
    [x + half, y + half / 2],
  ]
  if (AT_A_POINT.has(pen) || pen === 'count') return [[x, y]]
  if (pen === 'cloud') return rectangle(from, to)
  if (pen === 'callout') return callout(from, [x, y - half], perMm)
  if (pen === 'polygon' || pen === 'area' || pen === 'perimeter') return [from, [to[0], from[1]], [x, to[1]]]
  if (pen === 'polyline' || pen === 'freehand' || pen === 'path' || pen === 'angle')
    return [from, [x, to[1]], [to[0], from[1]]]
  return [from, to]
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

export type Extent = [number, number, number, number]

/** Left, upper, right and lower edge of some points. */
export function extent(points: readonly Point[]): Extent {
  let [left, upper, right, lower]: Extent = [Infinity, Infinity, -Infinity, -Infinity]
  for (const [x, y] of points) {
    left = Math.min(left, x)
    upper = Math.min(upper, y)
    right = Math.max(right, x)
    lower = Math.max(lower, y)
  }
  return [left, upper, right, lower]
}

/** The middle of some points. */
export function centre(points: readonly Point[]): Point {
  const [left, upper, right, lower] = extent(points)
  return [(left + right) / 2, (upper + lower) / 2]
}

/** Whether all the points lie in the box that two corners span. */
export function caught(points: readonly Point[], from: Point, to: Point): boolean {
  const [left, upper, right, lower] = extent([from, to])
  return points.every(([x, y]) => left <= x && x <= right && upper <= y && y <= lower)
}

export function add([x, y]: Point, [dx, dy]: Point): Point {
  return [x + dx, y + dy]
}

export function distance([x0, y0]: Point, [x1, y1]: Point): number {
  return Math.hypot(x1 - x0, y1 - y0)
}
