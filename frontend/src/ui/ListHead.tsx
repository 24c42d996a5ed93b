import { ArrowDown, ArrowUp } from 'lucide-react'
import { useRef, type PointerEvent } from 'react'

import { MarkAll } from './MarkAll'
import type { Column, SortedBy, TableProps } from './listTypes'

interface Props<Row> extends TableProps<Row> {
  tracks: string
  least: number
  sticky: readonly number[]
}

/** The heads of a list: a click sorts by the column, with Shift also by it; their edges can be dragged. */
export function ListHead<Row>(props: Props<Row>) {
  const { columns, marked, tracks, sticky } = props
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-[2] grid h-8 w-full shrink-0 items-center border-b border-second/40 bg-surface text-note font-semibold text-second"
      style={{ gridTemplateColumns: tracks, minWidth: props.least }}
    >
      {marked && (
        <div
          role="columnheader"
          className={`flex h-full items-center justify-center ${sticky.length ? 'sticky left-0 z-[1] bg-inherit' : ''}`}
        >
          <MarkAll {...props} />
        </div>
      )}
      {columns.map((column, place) => (
        <HeadCell
          key={column.key}
          column={column}
          {...props}
          left={place < sticky.length ? sticky[place] : undefined}
          edge={place === sticky.length - 1}
        />
      ))}
    </div>
  )
}

interface CellProps<Row> {
  column: Column<Row>
  sorts?: readonly SortedBy[]
  onSort?: (key: string, more: boolean) => void
  onWidth?: (key: string, px: number) => void
  left: number | undefined
  edge: boolean
}

function HeadCell<Row>({ column, sorts = [], onSort, onWidth, left, edge }: CellProps<Row>) {
  const cell = useRef<HTMLDivElement>(null)
  const place = sorts.findIndex((each) => each.key === column.key)
  const sorted = sorts[place]
  const order = sorted ? (sorted.descending ? 'descending' : 'ascending') : undefined
  return (
    <div
      ref={cell}
      role="columnheader"
      aria-sort={order}
      className={`relative flex h-full items-center px-2 ${left === undefined ? '' : 'sticky z-[1] bg-inherit'} ${edge ? 'border-r border-line' : ''}`}
      style={left === undefined ? undefined : { left }}
    >
      {column.sorts && onSort ? (
        <button
          type="button"
          className="inline-flex min-w-0 items-center gap-1 font-semibold hover:text-ink"
          title={`Sort by ${column.head}; with Shift, also by it`}
          onClick={(event) => onSort(column.key, event.shiftKey)}
        >
          <span className="truncate">{column.head}</span>
          {sorted &&
            (sorted.descending ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
          {sorted && sorts.length > 1 && <span className="text-fine">{place + 1}</span>}
        </button>
      ) : (
        <span className="truncate">{column.head}</span>
      )}
      {onWidth && (
        <Edge onWidth={(px) => onWidth(column.key, px)} width={() => cell.current?.offsetWidth ?? 100} />
      )}
    </div>
  )
}

/** Dragged by the mouse; by keyboard widths are typed where the columns are chosen. */
function Edge({ onWidth, width }: { onWidth: (px: number) => void; width: () => number }) {
  const from = useRef<{ x: number; width: number } | null>(null)
  const at = (event: PointerEvent) => {
    const start = from.current
    return start ? Math.max(40, Math.min(800, Math.round(start.width + event.clientX - start.x))) : 0
  }
  return (
    <span
      aria-hidden
      className="absolute top-0 right-0 z-[2] h-full w-1.5 cursor-col-resize select-none hover:bg-line"
      onPointerCancel={() => (from.current = null)}
      onPointerDown={(event) => {
        from.current = { x: event.clientX, width: width() }
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerUp={(event) => {
        if (from.current && Math.abs(event.clientX - from.current.x) > 2) onWidth(at(event))
        from.current = null
      }}
    />
  )
}
