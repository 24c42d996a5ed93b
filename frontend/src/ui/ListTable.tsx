import { useVirtualizer } from '@tanstack/react-virtual'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'

import { usePartKeys, type Keys } from './keys'
import { ListHead } from './ListHead'
import { GroupLine, Line, NotHere } from './ListLine'
import { SLIP_PX } from './Slip'
import { SlipHead } from './SlipHead'
import { useNarrow } from './useNarrow'
import type { Column, Group, Grouping, SlipPart, TableProps } from './listTypes'

export type { Column, Group, Grouping } from './listTypes'

type Item<Row> = { group: Group; shut: boolean } | { row: Row; place: number }

const ROW = 32
const MARK = 28
const GROUP_PX = 36

const isGroup = <Row,>(item: Item<Row> | undefined) => item !== undefined && 'group' in item

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
  const { rows, rowId, marked, onMark, grouping, tail } = props
  const scroller = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState(0)
  const anchor = useRef(0)
  const wanted = useRef(-1)
  const items = useItems(props)
  const slips = useNarrow() ? props.slips : null
  const height = slips ? SLIP_PX : ROW
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const virtual = useVirtualizer({
    count: items.count,
    getScrollElement: () => scroller.current,
    estimateSize: (place) => (slips && isGroup(items.at(place)) ? GROUP_PX : height),
    overscan: 12,
  })
  useEffect(() => virtual.measure(), [virtual, height])
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

  const { tracks, least, sticky, span } = layoutOf(props, slips)

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
      {slips ? (
        <SlipHead {...props} />
      ) : (
        <ListHead {...props} tracks={tracks} least={least} sticky={sticky} />
      )}
      <div role="rowgroup" className="grow" style={{ minWidth: least }}>
        {rows.length === 0 && items.count === 0 && (
          <div role="row">
            <div role="gridcell">{props.empty}</div>
          </div>
        )}
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {shown.map((line) => {
            const item = items.at(line.index)
            const style = { transform: `translateY(${line.start}px)`, height: line.size }
            if (!item) return <NotHere key={`at ${line.index}`} place={line.index} style={style} />
            const focus = { 'data-place': line.index, onFocus: () => setAt(line.index) }
            const tab = line.index === at ? 0 : -1
            if ('group' in item)
              return (
                <GroupLine
                  key={`group ${item.group.key}`}
                  item={item}
                  place={line.index}
                  span={span}
                  style={style}
                  focus={focus}
                  tab={tab}
                  onToggle={() => grouping?.onToggle(item.group.key)}
                />
              )
            const id = rowId(item.row)
            return (
              <Line
                key={keyOf(id, item.row, grouping)}
                row={item.row}
                place={line.index}
                open={props.openId === id}
                isMarked={marked?.has(id)}
                tracks={tracks}
                columns={props.columns}
                {...{ slips, sticky, style, focus, tab }}
                onMark={(range) => mark(line.index, range)}
                onShow={() => {
                  setAt(line.index)
                  anchor.current = line.index
                  props.onShow(item.row)
                }}
                onGo={() => props.onGo?.(item.row)}
              />
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

/** A line may stand under several headings. */
function keyOf<Row>(id: string, row: Row, grouping: Grouping<Row> | undefined): string {
  return grouping ? `${id} ${grouping.groupOf(row)}` : id
}

/** Tracks of the grid, the least width of all, where the columns stand that stay in view, how many cells a line has. */
function layoutOf<Row>(props: TableProps<Row>, slips: readonly SlipPart<Row>[] | null) {
  const { columns, frozen = 0 } = props
  const before = props.marked ? MARK : 0
  const first = before ? [`${MARK}px`] : []
  const span = (slips ?? columns).length + first.length
  if (slips) return { tracks: [...first, '1fr'].join(' '), least: 0, sticky: [], span }
  return {
    tracks: [...first, ...columns.map((column) => column.width)].join(' '),
    least: columns.reduce((sum, column) => sum + leastPx(column.width), before),
    sticky: stickyLefts(columns, frozen, before),
    span,
  }
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
