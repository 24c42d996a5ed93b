import { ChevronDown, ChevronRight } from 'lucide-react'

import { Slip } from './Slip'
import type { Column, Group, SlipPart } from './listTypes'

interface LineProps<Row> extends CellsProps<Row> {
  place: number
  slips: readonly SlipPart<Row>[] | null
  open: boolean
  /** Undefined where lines cannot be marked. */
  isMarked: boolean | undefined
  tracks: string
  style: { transform: string; height: number }
  focus: Record<string, unknown>
  tab: number
  onMark: (range: boolean) => void
  onShow: () => void
  onGo: () => void
}

export function Line<Row>({ row, place, columns, slips, sticky, open, isMarked, ...more }: LineProps<Row>) {
  return (
    <div
      role="row"
      aria-rowindex={place + 2}
      aria-selected={isMarked ?? open}
      {...more.focus}
      tabIndex={more.tab}
      className={`group/line absolute top-0 left-0 grid w-full items-center border-b border-line/70 text-list ${groundOf(open, Boolean(isMarked))}`}
      style={{ ...more.style, gridTemplateColumns: more.tracks }}
      onClick={(event) => (event.shiftKey ? more.onMark(true) : more.onShow())}
      onDoubleClick={more.onGo}
      onKeyDown={() => undefined}
    >
      {isMarked !== undefined && (
        <MarkCell
          checked={isMarked}
          onChange={more.onMark}
          sticky={sticky.length > 0}
          tall={slips !== null}
        />
      )}
      {slips ? <Slip row={row} parts={slips} /> : <Cells row={row} columns={columns} sticky={sticky} />}
    </div>
  )
}

interface CellsProps<Row> {
  row: Row
  columns: readonly Column<Row>[]
  sticky: readonly number[]
}

function Cells<Row>({ row, columns, sticky }: CellsProps<Row>) {
  return columns.map((column, place) => (
    <div
      key={column.key}
      role="gridcell"
      className={`truncate px-2 ${place < sticky.length ? 'sticky z-[1] flex h-full items-center bg-inherit' : ''} ${place === sticky.length - 1 ? 'border-r border-line' : ''}`}
      style={place < sticky.length ? { left: sticky[place] } : undefined}
    >
      {place < sticky.length ? <span className="truncate">{column.cell(row)}</span> : column.cell(row)}
    </div>
  ))
}

function groundOf(open: boolean, marked: boolean): string {
  if (open) return 'bg-plum-tint'
  return marked ? 'bg-[color-mix(in_srgb,var(--plum-tint)_50%,var(--surface))]' : 'bg-surface hover:bg-paper'
}

/** A line that is on its way. */
export function NotHere({ place, style }: { place: number; style: { transform: string; height: number } }) {
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

interface GroupLineProps {
  item: { group: Group; shut: boolean }
  place: number
  span: number
  style: { transform: string; height: number }
  focus: Record<string, unknown>
  tab: number
  onToggle: () => void
}

export function GroupLine({ item, place, span, style, focus, tab, onToggle }: GroupLineProps) {
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

interface MarkProps {
  checked: boolean
  onChange: (range: boolean) => void
  sticky: boolean
  /** The line is a slip: both its lines. */
  tall: boolean
}

function MarkCell({ checked, onChange, sticky, tall }: MarkProps) {
  return (
    <div
      role="gridcell"
      className={`flex h-full items-center justify-center ${tall ? 'row-span-2' : ''} ${sticky && !tall ? 'sticky left-0 z-[1] bg-inherit' : ''}`}
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
