import type { Affine, Point } from './affine'
import { carried, extent, type Extent } from './drawing'

/** A box in PDF points as left, upper, right, lower of the page as seen. */
export function boxOnPage([left, low, right, high]: Extent, toView: Affine): Extent {
  const corners: Point[] = [
    [left, low],
    [right, high],
  ]
  return extent(carried(corners, toView))
}

/** The place with enough of the sheet around it to know where one is. */
export function surroundings([left, upper, right, lower]: Extent): Extent {
  const margin = Math.max(120, (right - left) * 1.5, (lower - upper) * 1.5)
  return [left - margin, upper - margin, right + margin, lower + margin]
}
