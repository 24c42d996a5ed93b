import { useVirtualizer } from '@tanstack/react-virtual'
import { useCallback, useEffect, useMemo, useRef } from 'react'

import { ArrivalRow, TRACKS } from './ArrivalRow'
import type { Arrival, Field } from './useIntake'
import type { Table } from './useTable'

const ROW = 32

interface Props {
  table: Table
  openId: string
  onOpen: (id: string) => void
}

/** The files of a batch, one line each; only what is seen is drawn. */
export function ArrivalGrid({ table, openId, onOpen }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const anchor = useRef(0)
  const { rows, marked } = table
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const acts = useStableActs(table)

  const move = useCallback(
    (place: number, field: Field) => {
      if (place < 0 || place >= rows.length) return
      virtual.scrollToIndex(place)
      const focus = () => {
        const cell = scroller.current?.querySelector<HTMLInputElement>(`[data-where="${place}:${field}"]`)
        cell?.focus()
        cell?.select()
        return Boolean(cell)
      }
      if (!focus()) requestAnimationFrame(focus)
    },
    [rows.length, virtual],
  )
  const range = useCallback(
    (place: number) => {
      const [from, to] = [Math.min(anchor.current, place), Math.max(anchor.current, place)]
      acts.mark(
        rows.slice(from, to + 1).map((each) => each.id),
        true,
      )
      anchor.current = place
    },
    [acts, rows],
  )
  const allMarked = rows.length > 0 && rows.every((each) => marked.has(each.id))

  return (
    <div
      role="grid"
      aria-label="Files of the batch"
      aria-rowcount={rows.length + 1}
      className="flex min-h-0 flex-1 flex-col overflow-x-auto"
    >
      <div role="rowgroup">
        <div
          role="row"
          aria-rowindex={1}
          className="grid min-w-[720px] items-center border-b border-second/40 bg-surface py-1.5 text-note font-semibold text-second"
          style={{ gridTemplateColumns: TRACKS }}
        >
          <div role="columnheader" className="pl-2">
            <input
              type="checkbox"
              aria-label="Mark all that are shown"
              checked={allMarked}
              className="block size-3.5 accent-plum"
              onChange={(event) =>
                table.mark(
                  rows.map((each) => each.id),
                  event.target.checked,
                )
              }
            />
          </div>
          {['Finding', 'Number', 'Rev', 'Status', 'Title', 'What was found'].map((head) => (
            <div key={head} role="columnheader" className="px-1.5">
              {head}
            </div>
          ))}
        </div>
      </div>
      <div ref={scroller} role="rowgroup" className="min-h-0 min-w-[720px] flex-1 overflow-y-auto">
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const arrival = rows[item.index] as Arrival
            return (
              <div
                key={arrival.id}
                role="presentation"
                className="absolute inset-x-0 top-0"
                style={{ transform: `translateY(${item.start}px)` }}
                onFocus={() => (anchor.current = item.index)}
              >
                <ArrivalRow
                  arrival={arrival}
                  place={item.index}
                  table={acts}
                  isMarked={marked.has(arrival.id)}
                  isOpen={arrival.id === openId}
                  onOpen={onOpen}
                  onRange={range}
                  onMove={move}
                />
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}

/** The acts of the table under one identity, so that a line is drawn again only when its own file changes. */
function useStableActs(table: Table): Pick<Table, 'type' | 'paste' | 'fill' | 'mark'> {
  const latest = useRef(table)
  useEffect(() => {
    latest.current = table
  })
  return useMemo(
    () => ({
      type: (...all) => latest.current.type(...all),
      paste: (...all) => latest.current.paste(...all),
      fill: (...all) => latest.current.fill(...all),
      mark: (...all) => latest.current.mark(...all),
    }),
    [],
  )
}
