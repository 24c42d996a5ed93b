import { useVirtualizer } from '@tanstack/react-virtual'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react'

import { ListHead } from './ListHead'
import type { Column, Group, Grouping, TableProps } from './listTypes'

export type { Column, Group, Grouping } from './listTypes'

type Item<Row> = { group: Group; shut: boolean } | { row: Row; place: number }

const ROW = 32
const MARK = 28

/** A dense list: arrows move, Enter goes, Space shows, x marks, Shift for a range. Only what is seen is drawn. */
export function ListTable<Row>(props: TableProps<Row>) {
  const { rows, columns, rowId, marked, onMark, onNearEnd, grouping } = props
  const scroller = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState(0)
  const anchor = useRef(0)
  const items = useMemo(() => itemsOf(rows, grouping), [rows, grouping])
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const shown = virtual.getVirtualItems()
  const last = shown.at(-1)?.index ?? 0
  useEffect(() => {
    if (onNearEnd && rows.length && last >= items.length - 20) onNearEnd()
  }, [last, rows.length, items.length, onNearEnd])

  const tracks = [...(marked ? [`${MARK}px`] : []), ...columns.map((column) => column.width)].join(' ')
  const least = columns.reduce((sum, column) => sum + leastPx(column.width), marked ? MARK : 0)
  const sticky = stickyLefts(columns, props.frozen ?? 0, marked ? MARK : 0)

  function moveTo(next: number, extend: boolean) {
    const place = Math.max(0, Math.min(next, items.length - 1))
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
    const part = items.slice(Math.min(from, to), Math.max(from, to) + 1)
    return part.flatMap((item) => ('row' in item ? [rowId(item.row)] : []))
  }

  function mark(place: number, range: boolean) {
    const item = items[place]
    if (!item || !('row' in item) || !onMark || !marked) return
    if (range) onMark(between(anchor.current, place), true)
    else onMark([rowId(item.row)], !marked.has(rowId(item.row)))
    anchor.current = place
  }

  function act(place: number, how: (row: Row) => void) {
    const item = items[place]
    if (!item) return
    if ('row' in item) how(item.row)
    else grouping?.onToggle(item.group.key)
  }

  function onKey(event: KeyboardEvent) {
    const keys: Record<string, () => void> = {
      ArrowDown: () => moveTo(at + 1, event.shiftKey),
      ArrowUp: () => moveTo(at - 1, event.shiftKey),
      PageDown: () => moveTo(at + 20, event.shiftKey),
      PageUp: () => moveTo(at - 20, event.shiftKey),
      Home: () => moveTo(0, event.shiftKey),
      End: () => moveTo(items.length - 1, event.shiftKey),
      ' ': () => act(at, props.onShow),
      Enter: () => act(at, props.onGo ?? props.onShow),
      x: () => mark(at, false),
      X: () => mark(at, true),
    }
    const done = keys[event.key]
    if (!done || (event.target as HTMLElement).closest('button, input, select, a')) return
    event.preventDefault()
    done()
  }

  return (
    <div
      ref={scroller}
      role="grid"
      aria-label={props.label}
      aria-rowcount={(props.total ?? rows.length) + 1}
      className="relative flex min-h-0 flex-1 flex-col overflow-auto"
      onKeyDown={onKey}
      tabIndex={-1}
    >
      <ListHead {...props} tracks={tracks} least={least} sticky={sticky} />
      <div role="rowgroup" className="grow" style={{ minWidth: least }}>
        {rows.length === 0 && items.length === 0 && (
          <div role="row">
            <div role="gridcell">{props.empty}</div>
          </div>
        )}
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {shown.map((line) => {
            const item = items[line.index]
            if (!item) return null
            const style = { transform: `translateY(${line.start}px)`, height: ROW }
            const focus = { 'data-place': line.index, onFocus: () => setAt(line.index) }
            const tab = line.index === at ? 0 : -1
            if ('group' in item)
              return (
                <GroupLine
                  key={`group ${item.group.key}`}
                  item={item}
                  place={line.index}
                  span={columns.length + (marked ? 1 : 0)}
                  style={style}
                  focus={focus}
                  tab={tab}
                  onToggle={() => grouping?.onToggle(item.group.key)}
                />
              )
            const id = rowId(item.row)
            const open = props.openId === id
            const ground = open
              ? 'bg-plum-tint'
              : marked?.has(id)
                ? 'bg-[color-mix(in_srgb,var(--plum-tint)_50%,var(--surface))]'
                : 'bg-surface hover:bg-paper'
            return (
              <div
                key={`${id} ${grouping?.groupOf(item.row) ?? ''}`}
                role="row"
                aria-rowindex={line.index + 2}
                aria-selected={marked ? marked.has(id) : open}
                {...focus}
                tabIndex={tab}
                className={`group/line absolute top-0 left-0 grid w-full items-center border-b border-line/70 text-list ${ground}`}
                style={{ ...style, gridTemplateColumns: tracks }}
                onClick={(event) => {
                  setAt(line.index)
                  if (event.shiftKey) mark(line.index, true)
                  else {
                    anchor.current = line.index
                    props.onShow(item.row)
                  }
                }}
                onDoubleClick={() => props.onGo?.(item.row)}
                onKeyDown={() => undefined}
              >
                {marked && (
                  <MarkCell
                    checked={marked.has(id)}
                    onChange={(range) => mark(line.index, range)}
                    sticky={sticky.length > 0}
                  />
                )}
                {columns.map((column, place) => (
                  <div
                    key={column.key}
                    role="gridcell"
                    className={`truncate px-2 ${place < sticky.length ? 'sticky z-[1] flex h-full items-center bg-inherit' : ''} ${place === sticky.length - 1 ? 'border-r border-line' : ''}`}
                    style={place < sticky.length ? { left: sticky[place] } : undefined}
                  >
                    {place < sticky.length ? (
                      <span className="truncate">{column.cell(item.row)}</span>
                    ) : (
                      column.cell(item.row)
                    )}
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

function itemsOf<Row>(rows: readonly Row[], grouping: Grouping<Row> | undefined): Item<Row>[] {
  if (!grouping) return rows.map((row, place) => ({ row, place }))
  const found: Item<Row>[] = []
  let place = 0
  for (const group of grouping.groups) {
    const shut = grouping.shut.includes(group.key)
    found.push({ group, shut })
    if (shut) continue
    const from = place
    for (let row = rows[place]; row !== undefined && grouping.groupOf(row) === group.key; row = rows[place]) {
      found.push({ row, place })
      place += 1
    }
    // What follows is not here yet.
    if (place - from < group.count && place >= rows.length) break
  }
  return found
}

function leastPx(width: string): number {
  return Number(/(\d+)px/.exec(width)?.[1] ?? 80)
}

/** Where each of the columns that stay in view stands; as far as their widths are known in px. */
function stickyLefts<Row>(columns: readonly Column<Row>[], frozen: number, from: number): number[] {
  const found: number[] = []
  let left = from
  for (const column of columns.slice(0, frozen)) {
    found.push(left)
    if (!/^\d+px$/.test(column.width)) break
    left += leastPx(column.width)
  }
  return found
}

interface GroupLineProps {
  item: { group: Group; shut: boolean }
  place: number
  span: number
  style: { transform: string; height: number }
  focus: Record<string, unknown>
  tab: number
  onToggle: () => void
}

function GroupLine({ item, place, span, style, focus, tab, onToggle }: GroupLineProps) {
  const Sign = item.shut ? ChevronRight : ChevronDown
  return (
    <div
      role="row"
      aria-rowindex={place + 2}
      {...focus}
      tabIndex={tab}
      className="absolute top-0 left-0 flex w-full items-center border-b border-second/40 bg-paper text-list"
      style={style}
    >
      <div role="gridcell" aria-colspan={span} className="sticky left-0 px-2">
        <button
          type="button"
          tabIndex={-1}
          aria-expanded={!item.shut}
          className="inline-flex items-center gap-1.5 font-semibold"
          onClick={onToggle}
        >
          <Sign size={14} aria-hidden />
          {item.group.words}
          <span className="font-normal text-second">{item.group.count.toLocaleString('en-GB')}</span>
        </button>
      </div>
    </div>
  )
}

function MarkCell({
  checked,
  onChange,
  sticky,
}: {
  checked: boolean
  onChange: (range: boolean) => void
  sticky: boolean
}) {
  return (
    <div
      role="gridcell"
      className={`flex h-full items-center justify-center ${sticky ? 'sticky left-0 z-[1] bg-inherit' : ''}`}
    >
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
