import type { Point } from './affine'

/** The length of one bulge along the outline, in points: 7 mm on paper. */
export const BULGE = (7 * 72) / 25.4

/**
 * An SVG path of arcs along a closed outline, bulging outwards, each about `bulge` long.
 * Points in view coordinates (y down), in any direction of turning.
 */
export function cloudPath(outline: readonly Point[], bulge = BULGE): string {
  const points = area(outline) < 0 ? [...outline].reverse() : outline
  const [first] = points
  if (!first) return ''
  const arcs = points.flatMap((from, place) =>
    edge(from, points[(place + 1) % points.length] ?? first, bulge),
  )
  return `M${number(first[0])} ${number(first[1])}${arcs.join('')}Z`
}

/** How many bulges an edge has; the files that Nod writes have as many (see bulges.cases.json). */
export function bulges(from: Point, to: Point, bulge: number): number {
  return Math.max(1, Math.round(Math.hypot(to[0] - from[0], to[1] - from[1]) / bulge))
}

function edge(from: Point, to: Point, bulge: number): string[] {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1])
  const count = bulges(from, to, bulge)
  const radius = number((length / count) * 0.56)
  return Array.from({ length: count }, (_, place) => {
    const at = (place + 1) / count
    const x = number(from[0] + (to[0] - from[0]) * at)
    const y = number(from[1] + (to[1] - from[1]) * at)
    return `A${radius} ${radius} 0 0 1 ${x} ${y}`
  })
}

/** Twice the signed area: positive when the outline turns clockwise as seen (y down). */
function area(points: readonly Point[]): number {
  return points.reduce((sum, [x, y], place) => {
    const [nx, ny] = points[(place + 1) % points.length] ?? [x, y]
    return sum + x * ny - nx * y
  }, 0)
}

function number(value: number): string {
  return String(Math.round(value * 100) / 100)
}
