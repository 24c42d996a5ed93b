/** The six numbers of a matrix: x' = a·x + c·y + e, y' = b·x + d·y + f. */
export type Affine = readonly [number, number, number, number, number, number]
export type Point = readonly [number, number]

export function apply([a, b, c, d, e, f]: Affine, [x, y]: Point): Point {
  return [a * x + c * y + e, b * x + d * y + f]
}

export function inverse([a, b, c, d, e, f]: Affine): Affine {
  const det = a * d - b * c
  const [ia, ib, ic, id] = [d / det, -b / det, -c / det, a / det]
  return [ia, ib, ic, id, -(ia * e + ic * f), -(ib * e + id * f)]
}
