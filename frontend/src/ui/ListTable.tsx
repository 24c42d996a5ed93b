import { useVirtualizer } from '@tanstack/react-virtual'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'

import { usePartKeys, type Keys } from './keys'
import { ListHead } from './ListHead'
import type { Column, Group, Grouping, TableProps } from './listTypes'

export type { Column, Group, Grouping } from './listTypes'

type Item<Row> = { group: Group; shut: boolean } | { row: Row; place: number }

const ROW = 32
const MARK = 28

/** The lines as they stand: those from the start, those from the end, and a gap of lines that are not here yet. */
function useItems<Row>({ rows, grouping, total, tail, rowId }: TableProps<Row>) {
  const head = useMemo(() => itemsOf(rows, grouping), [rows, grouping])
  const last = useMemo<Item<Row>[]>(() => {
    if (grouping || !tail?.rows.length) return []
    const there = new Set(rows.map(rowId))
    const rest = tail.rows.filter((row) => !there.has(rowId(row)))
    return rest.map((row, place) => ({ row, place }))
  }, [rows, tail, grouping, rowId])
  const count = last.length ? Math.max(head.length + last.length, total ?? 0) : head.length
  const at = useCallback(
    (place: number) =>
      head[place] ?? (place < count - last.length ? undefined : last[place - (count - last.length)]),
    [head, last, count],
  )
  return { head: head.length, last: last.length, count, at }
}

/** What is near to what is shown and not here yet is asked for; in the gap, from whichever side is nearer. */
function useMoreLines<Row>(
  { rows, onNearEnd, tail }: TableProps<Row>,
  items: ReturnType<typeof useItems<Row>>,
  first: number,
  last: number,
) {
  useEffect(() => {
    if (!rows.length) return
    const tailFrom = items.count - items.last
    const nearTail = items.last > 0 && last >= tailFrom - 20
    const gap = tailFrom > items.head
    if (gap && nearTail && first < tailFrom + 20) tail?.onNearStart()
    else if (last >= items.head - 20 && !nearTail) onNearEnd?.()
  }, [first, last, rows.length, items, onNearEnd, tail])
}

/** A dense list: arrows move, Enter goes, Space shows, x marks, Shift for a range. Only what is seen is drawn. */
export function ListTable<Row>(props: TableProps<Row>) {
  const { rows, columns, rowId, marked, onMark, grouping, tail } = props
  const scroller = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState(0)
  const anchor = useRef(0)
  const wanted = useRef(-1)
  const items = useItems(props)
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const virtual = useVirtualizer({
    count: items.count,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const shown = virtual.getVirtualItems()
  useMoreLines(props, items, shown[0]?.index ?? 0, shown.at(-1)?.index ?? 0)
  useEffect(() => {
    // One went to a line that was not here then.
    const place = wanted.current
    if (place < 0 || !items.at(place)) return
    wanted.current = -1
    virtual.scrollToIndex(place)
    focusSoon(place)
  })

  const tracks = [...(marked ? [`${MARK}px`] : []), ...columns.map((column) => column.width)].join(' ')
  const least = columns.reduce((sum, column) => sum + leastPx(column.width), marked ? MARK : 0)
  const sticky = stickyLefts(columns, props.frozen ?? 0, marked ? MARK : 0)

  function moveTo(next: number, extend: boolean) {
    const place = Math.max(0, Math.min(next, items.count - 1))
    setAt(place)
    virtual.scrollToIndex(place)
    wanted.current = items.at(place) ? -1 : place
    if (extend && onMark) onMark(between(anchor.current, place), true)
    else anchor.current = place
    if (!focusLine(place)) focusSoon(place)
  }

  /** The line is not drawn yet: wait for it, unless the person has gone elsewhere meanwhile. */
  function focusSoon(place: number, tries = 3) {
    requestAnimationFrame(() => {
      const active = document.activeElement
      const here = !active || active === document.body || scroller.current?.contains(active)
      if (here && !focusLine(place) && tries) focusSoon(place, tries - 1)
    })
  }

  function focusLine(place: number): boolean {
    const line = scroller.current?.querySelector<HTMLElement>(`[data-place="${place}"]`)
    line?.focus({ preventScroll: true })
    return Boolean(line)
  }

  function between(from: number, to: number): string[] {
    const [low, high] = [Math.min(from, to), Math.max(from, to)]
    const part = Array.from({ length: high - low + 1 }, (_, index) => items.at(low + index))
    return part.flatMap((item) => (item && 'row' in item ? [rowId(item.row)] : []))
  }

  function goToEnd(extend: boolean) {
    const all = grouping ? 0 : (props.total ?? 0)
    if (!tail || all <= items.count) return moveTo(items.count - 1, extend)
    tail.onEnd()
    setAt(all - 1)
    wanted.current = all - 1
  }

  function mark(place: number, range: boolean) {
    const item = items.at(place)
    if (!item || !('row' in item) || !onMark || !marked) return
    if (range) onMark(between(anchor.current, place), true)
    else onMark([rowId(item.row)], !marked.has(rowId(item.row)))
    anchor.current = place
  }

  function act(place: number, how: (row: Row) => void) {
    const item = items.at(place)
    if (!item) return
    if ('row' in item) how(item.row)
    else grouping?.onToggle(item.group.key)
  }

  const moves = (extend: boolean): Keys => {
    const words = extend ? 'mark up to there' : 'move in the list'
    const before = extend ? 'Shift+' : ''
    return {
      [`${before}ArrowDown`]: [words, () => moveTo(at + 1, extend)],
      [`${before}ArrowUp`]: [words, () => moveTo(at - 1, extend)],
      [`${before}PageDown`]: [words, () => moveTo(at + 20, extend)],
      [`${before}PageUp`]: [words, () => moveTo(at - 20, extend)],
      [`${before}Home`]: [words, () => moveTo(0, extend)],
      [`${before}End`]: [words, () => goToEnd(extend)],
    }
  }
  const onKey = usePartKeys('the list', {
    ...moves(false),
    ' ': ['open the dossier', () => act(at, props.onShow)],
    Enter: ['go there', () => act(at, props.onGo ?? props.onShow)],
    ...(onMark && {
      ...moves(true),
      x: ['mark the line', () => mark(at, false)] as const,
      X: ['mark up to the line', () => mark(at, true)] as const,
    }),
  })

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
        {rows.length === 0 && items.count === 0 && (
          <div role="row">
            <div role="gridcell">{props.empty}</div>
          </div>
        )}
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {shown.map((line) => {
            const item = items.at(line.index)
            const style = { transform: `translateY(${line.start}px)`, height: ROW }
            if (!item) return <NotHere key={`at ${line.index}`} place={line.index} style={style} />
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
            const ground = groundOf(open, Boolean(marked?.has(id)))
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

function groundOf(open: boolean, marked: boolean): string {
  if (open) return 'bg-plum-tint'
  return marked ? 'bg-[color-mix(in_srgb,var(--plum-tint)_50%,var(--surface))]' : 'bg-surface hover:bg-paper'
}

/** A line that is on its way. */
function NotHere({ place, style }: { place: number; style: { transform: string; height: number } }) {
  return (
    <div
      role="row"
      aria-rowindex={place + 2}
      className="absolute top-0 left-0 flex w-full items-center border-b border-line/70 bg-surface px-2 text-list text-second"
      style={style}
    >
      <div role="gridcell">…</div>
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
