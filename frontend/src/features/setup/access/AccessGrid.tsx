import { useVirtualizer } from '@tanstack/react-virtual'
import { memo, useEffect, useRef, type PointerEvent } from 'react'

import { counted } from '../../../domain/counted'
import { boundsOf, moved, type Selection } from '../../../domain/rectangle'
import { usePartKeys, type Bound } from '../../../ui/keys'
import { LEVELS, type AccessGridData, type LevelChoice } from './useAccess'

const ROW = 28
const COLUMN = 58
const HEAD = 138
const NAMES = 250

const LOOKS = [
  'text-second',
  'bg-slate-tint text-ink',
  'bg-slate-tint text-ink',
  'bg-spruce-tint text-ink',
  'bg-plum-tint text-ink',
]

interface Props {
  grid: AccessGridData
  selection: Selection
  onSelect: (selection: Selection) => void
  /** A level was chosen by its key: 0 to 4, or Delete for what comes from above. */
  onLevel: (level: LevelChoice) => void
  /** Cells that others changed while this was being looked at, as `column/row`. */
  changed: ReadonlySet<string>
  onFolder: (row: number) => void
}

const MOVES = [
  'ArrowUp',
  'ArrowDown',
  'ArrowLeft',
  'ArrowRight',
  'PageUp',
  'PageDown',
  'Home',
  'End',
] as const

interface Place {
  row: number
  column: number
}

/** The cell under an event. */
function cellOf(target: EventTarget): Place | null {
  const text = (target as HTMLElement).closest<HTMLElement>('[data-cell]')?.dataset['cell']
  if (!text) return null
  const [row = 0, column = 0] = text.split('/').map(Number)
  return { row, column }
}

/** Folders down, people (or roles, companies) across. Only what is seen is drawn, both ways. */
export function AccessGrid({ grid, selection, onSelect, onLevel, changed, onFolder }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const dragging = useRef(false)
  const wanted = useRef(false)
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const rows = useVirtualizer({
    count: grid.folders.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
    scrollPaddingStart: HEAD,
  })
  const columns = useVirtualizer({
    horizontal: true,
    count: grid.columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => COLUMN,
    overscan: 4,
    scrollPaddingStart: NAMES,
  })
  const bounds = boundsOf(selection)
  const { row: atRow, column: atColumn } = selection.focus

  // The focus follows the selection once the cell is drawn.
  useEffect(() => {
    if (!wanted.current) return
    wanted.current = false
    scroller.current?.querySelector<HTMLElement>(`[data-cell="${atRow}/${atColumn}"]`)?.focus()
  })

  function move(key: string, extend: boolean) {
    const next = moved(selection, key, extend, grid.folders.length, grid.columns.length)
    if (!next) return
    rows.scrollToIndex(next.focus.row)
    columns.scrollToIndex(next.focus.column)
    wanted.current = true
    onSelect(next)
  }
  const moves: [string, Bound][] = MOVES.flatMap((key) => [
    [key, ['move in the grid', () => move(key, false)]],
    [`Shift+${key}`, ['choose up to there', () => move(key, true)]],
  ])
  const levels: [string, Bound][] = LEVELS.map((level, place) => [
    String(place),
    [level, () => onLevel(level)],
  ])
  const everything = {
    anchor: { row: 0, column: 0 },
    focus: { row: grid.folders.length - 1, column: grid.columns.length - 1 },
  }
  const keys = usePartKeys(
    'the grid',
    {
      ...Object.fromEntries<Bound>([...moves, ...levels]),
      Enter: ['open the folder: make, rename, move, remove', () => onFolder(atRow)],
      'Ctrl+a': ['choose everything', () => onSelect(everything)],
      Delete: ['set nothing here: what is above comes through', () => onLevel('')],
      Backspace: ['set nothing here: what is above comes through', () => onLevel('')],
    },
    'input, select, a, button:not([data-cell])',
  )

  function press(event: PointerEvent) {
    const focus = cellOf(event.target)
    if (!focus) return
    dragging.current = true
    wanted.current = true
    onSelect({ anchor: event.shiftKey ? selection.anchor : focus, focus })
  }

  function drag(event: PointerEvent) {
    const focus = dragging.current ? cellOf(event.target) : null
    if (focus) onSelect({ anchor: selection.anchor, focus })
  }

  const shown = columns.getVirtualItems()
  return (
    <div
      ref={scroller}
      data-wide
      className="relative min-h-0 flex-1 overflow-auto"
      onPointerUp={() => (dragging.current = false)}
    >
      <div
        role="grid"
        tabIndex={-1}
        aria-label="Access"
        aria-multiselectable
        aria-rowcount={grid.folders.length + 1}
        aria-colcount={grid.columns.length + 1}
        className="relative select-none"
        style={{ width: NAMES + columns.getTotalSize(), height: HEAD + rows.getTotalSize() }}
        onKeyDown={keys}
        onPointerDown={press}
        onPointerOver={drag}
      >
        <div role="row" aria-rowindex={1} className="sticky top-0 z-20 bg-surface" style={{ height: HEAD }}>
          <div
            role="columnheader"
            aria-colindex={1}
            className="sticky left-0 z-30 flex h-full items-end border-r border-b border-second/40 bg-surface px-3 pb-1 text-note font-semibold text-second"
            style={{ width: NAMES }}
          >
            Folder
          </div>
          {shown.map((item) => {
            const column = grid.columns[item.index]
            if (!column) return null
            return (
              <div
                key={item.key}
                role="columnheader"
                aria-colindex={item.index + 2}
                title={`${column.name}, ${column.detail}`}
                className="absolute top-0 flex h-full items-end justify-center border-b border-second/40 bg-surface pb-1.5"
                style={{ left: NAMES + item.start, width: COLUMN }}
              >
                <span className="max-h-[128px] rotate-180 truncate text-note leading-[15px] [writing-mode:vertical-rl]">
                  <span className="font-semibold">{column.name}</span>
                  <br />
                  <span className="text-fine text-second">{column.detail}</span>
                </span>
              </div>
            )
          })}
        </div>
        {rows.getVirtualItems().map((row) => {
          const inside = row.index >= bounds.top && row.index <= bounds.bottom
          return (
            <GridRow
              key={grid.folders[row.index]?.id ?? row.index}
              grid={grid}
              row={row.index}
              first={shown[0]?.index ?? 0}
              last={shown.at(-1)?.index ?? -1}
              from={inside ? bounds.left : -1}
              to={inside ? bounds.right : -2}
              focus={row.index === atRow ? atColumn : -1}
              changed={changed}
              onFolder={onFolder}
            />
          )
        })}
      </div>
    </div>
  )
}

interface RowProps {
  grid: AccessGridData
  row: number
  /** The columns that are drawn. */
  first: number
  last: number
  /** The columns that are selected; none if `to` is before `from`. */
  from: number
  to: number
  /** The column that has the focus; -1 for none in this row. */
  focus: number
  changed: ReadonlySet<string>
  onFolder: (row: number) => void
}

/** One folder. Drawn again only if something in it changed: scrolling leaves the rows that stay as they are. */
const GridRow = memo(
  function GridRow({ grid, row, first, last, from, to, focus, changed, onFolder }: RowProps) {
    const folder = grid.folders[row]
    if (!folder) return null
    return (
      <div
        role="row"
        aria-rowindex={row + 2}
        className="absolute left-0 border-b border-line/60"
        style={{ top: HEAD + row * ROW, height: ROW, width: '100%' }}
      >
        <div
          role="rowheader"
          aria-colindex={1}
          className="sticky left-0 z-10 flex h-full items-center border-r border-second/40 bg-surface"
          style={{ width: NAMES }}
        >
          <button
            type="button"
            tabIndex={-1}
            className="h-full w-full truncate pr-2 text-left text-list hover:text-plum"
            style={{ paddingLeft: 12 + folder.depth * 16 }}
            title={`${folder.name}: ${counted(folder.documents, 'document')}`}
            onClick={() => onFolder(row)}
          >
            {folder.name}
          </button>
        </div>
        {Array.from({ length: last - first + 1 }, (_, place) => first + place).map((column) => (
          <GridCell
            key={column}
            grid={grid}
            row={row}
            column={column}
            inside={column >= from && column <= to}
            focused={column === focus}
            changed={changed.has(`${column}/${row}`)}
          />
        ))}
      </div>
    )
  },
  (old, now) =>
    (Object.keys(now) as (keyof RowProps)[]).every(
      (key) => key === 'onFolder' || Object.is(old[key], now[key]),
    ),
)

interface CellProps {
  grid: AccessGridData
  row: number
  column: number
  inside: boolean
  focused: boolean
  changed: boolean
}

const GridCell = memo(function GridCell({ grid, row, column, inside, focused, changed }: CellProps) {
  const level = Number(grid.levels[column]?.[row] ?? 0)
  const own = grid.own[column]?.[row] === '1'
  const words = grid.words[grid.sources[column]?.[row] ?? 0] ?? ''
  const name = `${grid.columns[column]?.name}, ${grid.folders[row]?.name}: ${LEVELS[level]}, ${words}`
  const looks = [
    LOOKS[level],
    own ? 'font-bold underline decoration-2 underline-offset-[3px]' : '',
    changed ? 'outline-2 -outline-offset-2 outline-ochre' : '',
    inside ? 'shadow-[inset_0_0_0_2px_var(--plum)]' : '',
  ]
  return (
    <div
      role="gridcell"
      aria-colindex={column + 2}
      aria-selected={inside}
      aria-label={name}
      title={name}
      data-cell={`${row}/${column}`}
      tabIndex={focused ? 0 : -1}
      className={`absolute top-0 flex h-full cursor-cell items-center justify-center text-note ${looks.join(' ')}`}
      style={{ left: NAMES + column * COLUMN, width: COLUMN - 1 }}
    >
      {level === 0 && !own ? '·' : LEVELS[level]}
    </div>
  )
})
