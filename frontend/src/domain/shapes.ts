import type { Point } from './affine'
import { cloudPath } from './cloudPath'
import { distance, extent, rectangle, type MarkKind } from './drawing'

const BOXES: ReadonlySet<MarkKind> = new Set([
  'rectangle',
  'ellipse',
  'text',
  'stamp',
  'callout',
  'highlight',
])
const FREE_HANDLES = 80

/** Kinds that hold text in a box. */
export const WRITTEN: ReadonlySet<MarkKind> = new Set(['text', 'callout', 'stamp'])

/** What of a mark is drawn with a line, as an SVG path. View coordinates. */
export function shapePath(
  kind: MarkKind,
  points: readonly Point[],
  arcPt: number,
  headPt: number,
  rings: readonly number[] = [],
): string {
  if (kind === 'area' || kind === 'perimeter')
    return outlines(points, rings)
      .map((outline) => `${chain(outline)}Z`)
      .join('')
  if (kind === 'freehand') return outlines(points, rings).map(chain).join('')
  if (kind === 'distance' || kind === 'path') return chain(points) + ends(points, headPt)
  if (kind === 'cloud') return cloudPath(points, arcPt)
  if (kind === 'polygon') return `${chain(points)}Z`
  if (kind === 'ellipse') return ellipse(points)
  if (kind === 'highlight') return boxesOf(points).map(boxPath).join('')
  if (kind === 'arrow') return arrow(points, headPt)
  if (kind === 'callout') return boxPath(points.slice(0, 2)) + leader(points, headPt)
  if (BOXES.has(kind)) return boxPath(points)
  return chain(points)
}

/** Of the height of words, how heavy a line under them or through them is. */
export const LINE_SHARE = 0.07

/** Under words or through them, for each of their boxes. View coordinates, so that below is below as one reads. */
export function linesOfWords(points: readonly Point[], manner: string): string {
  return boxesOf(points)
    .map((box) => {
      const [left, upper, right, lower] = extent(box)
      return chain(lineOf(manner, right - left, lower - upper).map(([x, y]) => [left + x, lower - y]))
    })
    .join('')
}

function lineOf(manner: string, width: number, height: number): Point[] {
  const level = manner === 'strikeout' ? height * 0.5 : height * LINE_SHARE
  if (manner !== 'squiggly')
    return [
      [0, level],
      [width, level],
    ]
  const step = height * 0.15
  const waves = Math.max(2, Math.round(width / step))
  return Array.from({ length: waves + 1 }, (_, place): Point => [
    (width * place) / waves,
    step * (0.3 + 0.7 * (place % 2)),
  ])
}

/** The outer outline of an area and its holes; `rings` tells how many points each has. */
export function outlines(points: readonly Point[], rings: readonly number[]): Point[][] {
  if (!rings.length) return [[...points]]
  let start = 0
  return rings.map((count) => points.slice(start, (start += count)))
}

/** A stroke across each end of what was measured. */
function ends(points: readonly Point[], size: number): string {
  const [first, second] = points
  const [last, before] = [points[points.length - 1], points[points.length - 2]]
  if (!first || !second || !last || !before) return ''
  return across(second, first, size) + across(before, last, size)
}

function across(from: Point, end: Point, size: number): string {
  const along = Math.atan2(end[1] - from[1], end[0] - from[0])
  const [x, y] = [(size / 2) * Math.sin(along), (size / 2) * Math.cos(along)]
  return chain([
    [end[0] - x, end[1] + y],
    [end[0] + x, end[1] - y],
  ])
}

/** Where the value of a measure is written. */
export function valueAt(kind: MarkKind, points: readonly Point[], rings: readonly number[]): Point {
  const outer = outlines(points, rings)[0] ?? []
  if (kind === 'area' || kind === 'perimeter') {
    const sum = outer.reduce<Point>(([x, y], point) => [x + point[0], y + point[1]], [0, 0])
    return [sum[0] / outer.length, sum[1] / outer.length]
  }
  if (kind === 'angle') return outer[1] ?? [0, 0]
  const place = outer.length % 2 ? Math.floor(outer.length / 2) - 1 : (outer.length - 1) >> 1
  const [a, b] = [outer[Math.max(0, place)] ?? [0, 0], outer[Math.max(0, place) + 1] ?? outer[0] ?? [0, 0]]
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]
}

function chain(points: readonly Point[]): string {
  return points.map(([x, y], place) => `${place ? 'L' : 'M'}${round(x)} ${round(y)}`).join('')
}

function boxPath(corners: readonly Point[]): string {
  const [from, to] = corners
  return from && to ? `${chain(rectangle(from, to))}Z` : ''
}

function boxesOf(points: readonly Point[]): Point[][] {
  return Array.from({ length: Math.floor(points.length / 2) }, (_, at) => points.slice(2 * at, 2 * at + 2))
}

function ellipse(points: readonly Point[]): string {
  const [left, upper, right, lower] = extent(points)
  const [rx, ry, y] = [(right - left) / 2, (lower - upper) / 2, (upper + lower) / 2].map(round)
  return `M${round(left)} ${y}A${rx} ${ry} 0 1 1 ${round(right)} ${y}A${rx} ${ry} 0 1 1 ${round(left)} ${y}Z`
}

function arrow(points: readonly Point[], headPt: number): string {
  const [from, to] = points
  return from && to ? chain([from, to]) + head(from, to, headPt) : ''
}

/** Two strokes back from the tip, 25 degrees to each side. */
function head(from: Point, tip: Point, size: number): string {
  const angle = Math.atan2(tip[1] - from[1], tip[0] - from[0])
  const side = (turn: number): Point => [
    tip[0] - size * Math.cos(angle + turn),
    tip[1] - size * Math.sin(angle + turn),
  ]
  return chain([side(0.436), tip, side(-0.436)])
}

/** From the edge of the box, over the knee if there is one, to the tip. */
function leader(points: readonly Point[], headPt: number): string {
  const [a, b, tip, knee] = points
  if (!a || !b || !tip) return ''
  const next = knee ?? tip
  const start = nearestEdge(a, b, next)
  const way = knee ? [start, knee, tip] : [start, tip]
  return chain(way) + head(way[way.length - 2] ?? start, tip, headPt)
}

/** The middle of that side of a box which is nearest to a point: the leader stays attached wherever the box goes. */
export function nearestEdge(a: Point, b: Point, to: Point): Point {
  const [left, upper, right, lower] = extent([a, b])
  const [x, y] = [(left + right) / 2, (upper + lower) / 2]
  const sides: Point[] = [
    [left, y],
    [right, y],
    [x, upper],
    [x, lower],
  ]
  return sides.reduce((best, side) => (distance(side, to) < distance(best, to) ? side : best))
}

/** The points by which a mark is reshaped. */
export function handlesOf(kind: MarkKind, points: readonly Point[]): Point[] {
  if (kind === 'pin' || kind === 'symbol' || points.length > FREE_HANDLES) return []
  if (kind === 'highlight') return points.length === 2 ? corners(points) : []
  return BOXES.has(kind) ? [...corners(points), ...points.slice(2)] : [...points]
}

function corners(points: readonly Point[]): Point[] {
  const [from, to] = points
  return from && to ? rectangle(from, to) : []
}

/** The points of the mark after one of its handles was taken somewhere else. */
export function reshaped(kind: MarkKind, points: readonly Point[], handle: number, to: Point): Point[] {
  if (!BOXES.has(kind)) return points.map((point, place) => (place === handle ? to : point))
  if (handle > 3) return points.map((point, place) => (place === handle - 2 ? to : point))
  const opposite = corners(points)[(handle + 2) % 4] ?? to
  return [opposite, to, ...points.slice(2)]
}

function round(value: number): number {
  return Math.round(value * 100) / 100
}
