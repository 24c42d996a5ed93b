import type { TableProps } from './listTypes'

/** The box above a list that marks, or no longer marks, all lines that are shown. */
export function MarkAll<Row>({ rows, rowId, marked, onMark }: TableProps<Row>) {
  const all = rows.length > 0 && rows.every((row) => marked?.has(rowId(row)))
  return (
    <input
      type="checkbox"
      aria-label="Mark all lines shown"
      checked={all}
      className="size-3.5 accent-plum"
      onChange={() => onMark?.(rows.map(rowId), !all)}
    />
  )
}
