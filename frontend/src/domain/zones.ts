/** Zones of a block reader, in millimetres: measured from a corner of the page, or as a box from its upper left. */

export type Corner = 'upper left' | 'upper right' | 'lower left' | 'lower right'
export type Box = readonly [left: number, upper: number, right: number, lower: number]

export interface Placed {
  corner: Corner
  across_mm: number
  down_mm: number
  width_mm: number
  height_mm: number
}

export interface Size {
  width: number
  height: number
}

/** A box as a zone, measured from the corner that is nearest to it, to a tenth of a millimetre. */
export function toZone(box: Box, page: Size): Placed {
  const [left, upper, right, lower] = tidy(box)
  const corner = nearestCorner([left, upper, right, lower], page)
  return {
    corner,
    across_mm: tenth(corner.endsWith('right') ? page.width - right : left),
    down_mm: tenth(corner.startsWith('lower') ? page.height - lower : upper),
    width_mm: tenth(right - left),
    height_mm: tenth(lower - upper),
  }
}

export function toBox(zone: Placed, page: Size): Box {
  const left = zone.corner.endsWith('right') ? page.width - zone.across_mm - zone.width_mm : zone.across_mm
  const upper = zone.corner.startsWith('lower') ? page.height - zone.down_mm - zone.height_mm : zone.down_mm
  return [left, upper, left + zone.width_mm, upper + zone.height_mm]
}

/** Moved by millimetres to the right and down, or made that much wider and higher; never smaller than 1 mm. */
export function nudge(zone: Placed, page: Size, right: number, down: number, resize: boolean): Placed {
  const [left, upper, end, lower] = toBox(zone, page)
  const moved: Box = resize
    ? [left, upper, Math.max(left + 1, end + right), Math.max(upper + 1, lower + down)]
    : [left + right, upper + down, end + right, lower + down]
  return { ...toZone(moved, page) }
}

function nearestCorner(box: Box, page: Size): Corner {
  const middle = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2] as const
  const side = middle[0] > page.width / 2 ? 'right' : 'left'
  return middle[1] > page.height / 2 ? `lower ${side}` : `upper ${side}`
}

function tidy([x0, y0, x1, y1]: Box): Box {
  return [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1), Math.max(y0, y1)]
}

function tenth(value: number): number {
  return Math.round(value * 10) / 10
}
