import type { Point } from './affine'
import { distance, type MarkKind } from './drawing'

/**
 * What is measured while the hand moves. The server measures what was drawn; both are held together by
 * `measures.cases.json`.
 */
export interface Scale {
  box: readonly [number, number, number, number] | null
  mmPerPt: number
}

export type Units = 'metric' | 'imperial'

const MEASURES: ReadonlySet<MarkKind> = new Set(['distance', 'path', 'area', 'perimeter', 'angle'])

/** The smallest region around a point, otherwise the page's; of two for one place the later. */
export function scaleAt([x, y]: Point, scales: readonly Scale[]): Scale | null {
  let best: Scale | null = null
  for (const scale of scales) {
    const [left, low, right, high] = scale.box ?? [-Infinity, -Infinity, Infinity, Infinity]
    if (x < left || x > right || y < low || y > high) continue
    if (!best || sizeOf(scale) <= sizeOf(best)) best = scale
  }
  return best
}

function sizeOf({ box }: Scale): number {
  return box ? (box[2] - box[0]) * (box[3] - box[1]) : Infinity
}

/** In words, for points of user space; empty for what measures nothing. `paperMm`: millimetres of paper to a point. */
export function measuredWords(
  kind: MarkKind,
  points: readonly Point[],
  scales: readonly Scale[],
  paperMm: number,
  units: Units,
): string {
  if (!MEASURES.has(kind) || points.length < 2) return ''
  if (kind === 'angle') return points.length > 2 ? `${angle(points).toFixed(1)}°` : ''
  const found = points.map((point) => scaleAt(point, scales))
  if (found.some((scale) => scale?.mmPerPt !== found[0]?.mmPerPt)) return 'scales differ'
  const scale = found[0]
  const factor = scale?.mmPerPt ?? paperMm
  if (kind === 'area') return areaWords(Math.abs(area(points)) * factor ** 2, units, !scale)
  return lengthWords(way(points, kind === 'perimeter') * factor, units, !scale)
}

export function lengthWords(mm: number, units: Units, paper: boolean): string {
  if (paper) return `${mm.toFixed(1)} mm`
  return units === 'metric' ? `${(mm / 1000).toFixed(3)} m` : feetAndInches(mm)
}

function areaWords(mm2: number, units: Units, paper: boolean): string {
  if (paper) return `${mm2.toFixed(1)} mm²`
  return units === 'metric' ? `${(mm2 / 1e6).toFixed(3)} m²` : `${(mm2 / 304.8 ** 2).toFixed(3)} sq ft`
}

/** Rounded to 1/64 inch, halves up, in lowest terms. */
export function feetAndInches(mm: number): string {
  const count = Math.floor((mm / 25.4) * 64 + 0.5)
  const part = count % 64
  const whole = (count - part) / 64
  const [feet, inches] = [Math.floor(whole / 12), whole % 12]
  const fraction = part ? lowest(part, 64) : ''
  const words = !fraction ? `${inches}"` : inches || feet ? `${inches} ${fraction}"` : `${fraction}"`
  return feet ? `${feet}'-${words}` : words
}

function lowest(top: number, bottom: number): string {
  return top % 2 ? `${top}/${bottom}` : lowest(top / 2, bottom / 2)
}

function way(points: readonly Point[], closed: boolean): number {
  const all = closed && points[0] ? [...points, points[0]] : points
  return all.reduce((sum, point, place) => sum + (place ? distance(all[place - 1] ?? point, point) : 0), 0)
}

function area(points: readonly Point[]): number {
  const [x0, y0] = points[0] ?? [0, 0]
  return (
    points.reduce((sum, [x, y], place) => {
      const [nextX, nextY] = points[(place + 1) % points.length] ?? [0, 0]
      return sum + (x - x0) * (nextY - y0) - (nextX - x0) * (y - y0)
    }, 0) / 2
  )
}

function angle([one, apex, other]: readonly Point[]): number {
  if (!one || !apex || !other) return 0
  const [ax, ay, bx, by] = [one[0] - apex[0], one[1] - apex[1], other[0] - apex[0], other[1] - apex[1]]
  return (Math.atan2(Math.abs(ax * by - ay * bx), ax * bx + ay * by) * 180) / Math.PI
}
