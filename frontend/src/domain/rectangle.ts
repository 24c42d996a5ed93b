/** A selection in a grid: from where it was begun to where it has been drawn. */
export interface Selection {
  anchor: { row: number; column: number }
  focus: { row: number; column: number }
}

export interface Bounds {
  top: number
  bottom: number
  left: number
  right: number
}

export function boundsOf({ anchor, focus }: Selection): Bounds {
  return {
    top: Math.min(anchor.row, focus.row),
    bottom: Math.max(anchor.row, focus.row),
    left: Math.min(anchor.column, focus.column),
    right: Math.max(anchor.column, focus.column),
  }
}

export function isInside(bounds: Bounds, row: number, column: number): boolean {
  return row >= bounds.top && row <= bounds.bottom && column >= bounds.left && column <= bounds.right
}

const PAGE = 12

/** Where the arrows and their kin lead; null for other keys. With Shift the selection grows instead of moving. */
export function moved(
  selection: Selection,
  key: string,
  shift: boolean,
  rows: number,
  columns: number,
): Selection | null {
  const steps: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    PageUp: [-PAGE, 0],
    PageDown: [PAGE, 0],
    Home: [0, -columns],
    End: [0, columns],
  }
  const step = steps[key]
  if (!step) return null
  const focus = {
    row: Math.max(0, Math.min(rows - 1, selection.focus.row + step[0])),
    column: Math.max(0, Math.min(columns - 1, selection.focus.column + step[1])),
  }
  return { anchor: shift ? selection.anchor : focus, focus }
}
