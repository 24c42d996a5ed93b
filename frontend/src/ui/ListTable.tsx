import { useVirtualizer } from '@tanstack/react-virtual'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react'

export interface Column<Row> {
  key: string
  head: string
  /** A track of a CSS grid: `120px`, `minmax(160px, 1fr)`. */
  width: string
  cell: (row: Row) => ReactNode
  sorts?: boolean
}

interface Props<Row> {
  label: string
  rows: readonly Row[]
  total?: number
  rowId: (row: Row) => string
  columns: readonly Column<Row>[]
  openId?: string | undefined
  /** Space or a click: show the dossier. */
  onShow: (row: Row) => void
  /** Enter or a double click: go there. */
  onGo?: (row: Row) => void
  marked?: ReadonlySet<string>
  onMark?: (ids: string[], on: boolean) => void
  sort?: { key: string; descending: boolean }
  onSort?: (key: string) => void
  onNearEnd?: () => void
  empty?: ReactNode
}

const ROW = 32

/** A dense list: arrows move, Enter goes, Space shows, x marks, Shift for a range. Only what is seen is drawn. */
export function ListTable<Row>(props: Props<Row>) {
  const { rows, columns, rowId, marked, onMark, onNearEnd } = props
  const scroller = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState(0)
  const anchor = useRef(0)
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const items = virtual.getVirtualItems()
  const last = items.at(-1)?.index ?? 0
  useEffect(() => {
    if (onNearEnd && rows.length && last >= rows.length - 20) onNearEnd()
  }, [last, rows.length, onNearEnd])

  const tracks = [...(marked ? ['28px'] : []), ...columns.map((column) => column.width)].join(' ')

  function moveTo(next: number, extend: boolean) {
    const place = Math.max(0, Math.min(next, rows.length - 1))
    setAt(place)
    virtual.scrollToIndex(place)
    if (extend && onMark) onMark(between(anchor.current, place), true)
    else anchor.current = place
    if (focusLine(place)) return
    // The line is not drawn yet: wait for it, unless the person has gone elsewhere meanwhile.
    requestAnimationFrame(() => {
      const active = document.activeElement
      if (!active || active === document.body || scroller.current?.contains(active)) focusLine(place)
    })
  }

  function focusLine(place: number): boolean {
    const line = scroller.current?.querySelector<HTMLElement>(`[data-place="${place}"]`)
    line?.focus({ preventScroll: true })
    return Boolean(line)
  }

  function between(from: number, to: number): string[] {
    return rows.slice(Math.min(from, to), Math.max(from, to) + 1).map(rowId)
  }

  function mark(place: number, range: boolean) {
    const row = rows[place]
    if (!row || !onMark || !marked) return
    if (range) onMark(between(anchor.current, place), true)
    else onMark([rowId(row)], !marked.has(rowId(row)))
    anchor.current = place
  }

  function onKey(event: KeyboardEvent) {
    const row = rows[at]
    const keys: Record<string, () => void> = {
      ArrowDown: () => moveTo(at + 1, event.shiftKey),
      ArrowUp: () => moveTo(at - 1, event.shiftKey),
      PageDown: () => moveTo(at + 20, event.shiftKey),
      PageUp: () => moveTo(at - 20, event.shiftKey),
      Home: () => moveTo(0, event.shiftKey),
      End: () => moveTo(rows.length - 1, event.shiftKey),
      ' ': () => row && props.onShow(row),
      Enter: () => row && (props.onGo ?? props.onShow)(row),
      x: () => mark(at, false),
      X: () => mark(at, true),
    }
    const act = keys[event.key]
    if (!act || (event.target as HTMLElement).closest('button, input, select, a')) return
    event.preventDefault()
    act()
  }

  return (
    <div
      role="grid"
      aria-label={props.label}
      aria-rowcount={(props.total ?? rows.length) + 1}
      className="flex min-h-0 flex-1 flex-col overflow-x-auto"
      onKeyDown={onKey}
      tabIndex={-1}
    >
      <Head {...props} tracks={tracks} />
      <div ref={scroller} role="rowgroup" className="min-h-0 flex-1 overflow-y-auto">
        {rows.length === 0 && (
          <div role="row">
            <div role="gridcell">{props.empty}</div>
          </div>
        )}
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const row = rows[item.index]
            if (!row) return null
            const id = rowId(row)
            const open = props.openId === id
            return (
              <div
                key={id}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={marked ? marked.has(id) : open}
                data-place={item.index}
                tabIndex={item.index === at ? 0 : -1}
                className={`absolute top-0 left-0 grid w-full items-center border-b border-line/70 text-list ${open ? 'bg-plum-tint' : 'hover:bg-paper'}`}
                style={{ transform: `translateY(${item.start}px)`, height: ROW, gridTemplateColumns: tracks }}
                onClick={(event) => {
                  setAt(item.index)
                  if (event.shiftKey) mark(item.index, true)
                  else {
                    anchor.current = item.index
                    props.onShow(row)
                  }
                }}
                onFocus={() => setAt(item.index)}
                onDoubleClick={() => props.onGo?.(row)}
                onKeyDown={() => undefined}
              >
                {marked && (
                  <MarkCell checked={marked.has(id)} onChange={(range) => mark(item.index, range)} />
                )}
                {columns.map((column) => (
                  <div key={column.key} role="gridcell" className="truncate px-2">
                    {column.cell(row)}
                  </div>
                ))}
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}

function MarkCell({ checked, onChange }: { checked: boolean; onChange: (range: boolean) => void }) {
  return (
    <div role="gridcell" className="flex justify-center">
      <input
        type="checkbox"
        aria-label="Mark this line"
        checked={checked}
        tabIndex={-1}
        className="size-3.5 accent-plum"
        onChange={() => undefined}
        onClick={(event) => {
          event.stopPropagation()
          onChange(event.shiftKey)
        }}
      />
    </div>
  )
}

function Head<Row>({
  columns,
  marked,
  onMark,
  rows,
  rowId,
  sort,
  onSort,
  tracks,
}: Props<Row> & { tracks: string }) {
  const all = rows.length > 0 && rows.every((row) => marked?.has(rowId(row)))
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="grid h-8 shrink-0 items-center border-b border-second/40 bg-surface text-[12px] font-semibold text-second"
      style={{ gridTemplateColumns: tracks }}
    >
      {marked && (
        <div role="columnheader" className="flex justify-center">
          <input
            type="checkbox"
            aria-label="Mark all lines shown"
            checked={all}
            className="size-3.5 accent-plum"
            onChange={() => onMark?.(rows.map(rowId), !all)}
          />
        </div>
      )}
      {columns.map((column) => {
        const active = sort?.key === column.key
        const order = active ? (sort.descending ? 'descending' : 'ascending') : undefined
        return (
          <div key={column.key} role="columnheader" aria-sort={order} className="truncate px-2">
            {column.sorts && onSort ? (
              <button
                type="button"
                className="inline-flex items-center gap-1 font-semibold hover:text-ink"
                onClick={() => onSort(column.key)}
              >
                {column.head}
                {active &&
                  (sort.descending ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
              </button>
            ) : (
              column.head
            )}
          </div>
        )
      })}
    </div>
  )
}
