import { useVirtualizer } from '@tanstack/react-virtual'
import { Link } from '@tanstack/react-router'
import { useEffect, useRef, type KeyboardEvent } from 'react'

import { HolderMark, holderWords, type HolderCell } from '../../ui/HolderMark'
import { useNarrow } from '../../ui/useNarrow'
import type { HolderCompany, HolderLine } from './useTransmittals'

const ROW_PX = 32
const CELL_PX = 84
const NUMBER_PX = 196
const TITLE_PX = 250
const FORCE_PX = 110

export const cellKey = (documentId: string, companyId: string) => `${documentId} ${companyId}`

interface Props {
  lines: readonly HolderLine[]
  companies: readonly HolderCompany[]
  total: number
  marked: ReadonlySet<string>
  /** Undefined for whoever does not send. */
  onMark: ((keys: readonly string[], on: boolean) => void) | undefined
  onNearEnd: () => void
}

/** On a phone the title is what can be spared: the number is a link to it. */
function useTracks(companies: number) {
  const title = useNarrow() ? 0 : TITLE_PX
  return {
    tracks: `${NUMBER_PX}px ${title}px ${FORCE_PX}px repeat(${companies}, ${CELL_PX}px)`,
    width: NUMBER_PX + title + FORCE_PX + companies * CELL_PX,
  }
}

/** Only what is seen is drawn; number and company stay in view. Arrows move from cell to cell, Space marks one. */
export function HoldersGrid({ lines, companies, total, marked, onMark, onNearEnd }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is meant to be read on every render
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  })
  const shown = virtual.getVirtualItems()
  const last = shown.at(-1)?.index ?? 0
  useEffect(() => {
    if (last >= lines.length - 20) onNearEnd()
  }, [last, lines.length, onNearEnd])
  const { tracks, width } = useTracks(companies.length)
  return (
    <div ref={scroller} data-wide className="relative min-h-0 flex-1 overflow-auto" tabIndex={-1}>
      <div
        role="grid"
        tabIndex={-1}
        aria-label="Holders"
        aria-rowcount={total + 1}
        aria-colcount={companies.length + 3}
        style={{ width }}
        onKeyDown={moveBetweenCells}
      >
        <GridHead tracks={tracks} lines={lines} companies={companies} marked={marked} onMark={onMark} />
        <div role="rowgroup" className="relative" style={{ height: virtual.getTotalSize() }}>
          {shown.map(({ index, start }) => {
            const line = lines[index]
            return (
              line && (
                <div
                  key={line.document_id}
                  role="row"
                  aria-rowindex={index + 2}
                  className="absolute grid w-full items-stretch border-b border-line/60 bg-surface text-list"
                  style={{ height: ROW_PX, transform: `translateY(${start}px)`, gridTemplateColumns: tracks }}
                >
                  <LineHead line={line} />
                  {companies.map((company, at) => (
                    <Cell
                      key={company.id}
                      at={[index, at]}
                      line={line}
                      company={company}
                      cell={line.cells[at]}
                      marked={marked.has(cellKey(line.document_id, company.id))}
                      onMark={onMark}
                    />
                  ))}
                </div>
              )
            )
          })}
        </div>
      </div>
    </div>
  )
}

type HeadProps = Pick<Props, 'lines' | 'companies' | 'marked' | 'onMark'> & { tracks: string }

function GridHead({ tracks, lines, companies, marked, onMark }: HeadProps) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-20 grid border-b border-second/40 bg-paper text-note font-semibold text-second"
      style={{ gridTemplateColumns: tracks }}
    >
      <span role="columnheader" className="sticky left-0 z-10 bg-paper px-3 py-1.5">
        Number
      </span>
      <span role="columnheader" className="overflow-hidden px-2 py-1.5 max-md:px-0">
        Title
      </span>
      <span role="columnheader" className="px-2 py-1.5">
        In force
      </span>
      {companies.map((company) => {
        const keys = lines.map((line) => cellKey(line.document_id, company.id))
        const all = keys.length > 0 && keys.every((key) => marked.has(key))
        return (
          <span key={company.id} role="columnheader" className="border-l border-line/60">
            {onMark ? (
              <button
                type="button"
                title={`${company.name}: mark all that is listed`}
                aria-label={`${company.code}, mark its column`}
                aria-pressed={all}
                onClick={() => onMark(keys, !all)}
                className="code h-full w-full px-2 py-1.5 text-left hover:bg-surface aria-pressed:bg-plum aria-pressed:text-on-plum"
              >
                {company.code}
              </button>
            ) : (
              <span title={company.name} className="code block px-2 py-1.5">
                {company.code}
              </span>
            )}
          </span>
        )
      })}
    </div>
  )
}

function LineHead({ line }: { line: HolderLine }) {
  return (
    <>
      <span role="rowheader" className="sticky left-0 z-10 flex items-center bg-surface px-3">
        <Link
          to="/register"
          search={{ document: line.document_id, words: line.number }}
          className="code inline-flex min-h-6 items-center truncate text-plum underline"
        >
          {line.number}
        </Link>
      </span>
      <span role="gridcell" className="flex items-center truncate px-2 max-md:px-0" title={line.title}>
        <span className={`truncate ${line.withdrawn ? 'line-through' : ''}`}>{line.title}</span>
      </span>
      <span role="gridcell" className="code flex items-center gap-1.5 px-2">
        {line.in_force || <span className="font-sans text-second">nothing</span>}
        {line.revision !== line.in_force && (
          <span className="text-second" title="The latest, not released">
            {line.revision}
          </span>
        )}
      </span>
    </>
  )
}

interface CellProps {
  at: [number, number]
  line: HolderLine
  company: HolderCompany
  cell: HolderCell | undefined
  marked: boolean
  onMark: Props['onMark']
}

function Cell({ at, line, company, cell, marked, onMark }: CellProps) {
  if (!cell) return null
  const words = `${company.code}, ${line.number}: ${holderWords(cell)}`
  const key = cellKey(line.document_id, company.id)
  return (
    <span role="gridcell" className="border-l border-line/60" aria-selected={marked}>
      {onMark ? (
        <button
          type="button"
          data-cell={at.join(' ')}
          title={words}
          aria-pressed={marked}
          onClick={() => onMark([key], !marked)}
          className="flex h-full w-full items-center px-1 text-left hover:bg-paper aria-pressed:bg-plum-tint aria-pressed:outline aria-pressed:-outline-offset-1 aria-pressed:outline-plum"
        >
          <Said cell={cell} words={words} />
        </button>
      ) : (
        <span title={words} className="flex h-full items-center px-1">
          <Said cell={cell} words={words} />
        </span>
      )}
    </span>
  )
}

/** The sign for the eye, and the same in words. */
function Said({ cell, words }: { cell: HolderCell; words: string }) {
  return (
    <>
      <span aria-hidden>
        <HolderMark cell={cell} />
      </span>
      <span className="sr-only">{words}</span>
    </>
  )
}

const STEPS: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
}

function moveBetweenCells(event: KeyboardEvent<HTMLDivElement>) {
  const step = STEPS[event.key]
  const now = (event.target as HTMLElement).dataset['cell']?.split(' ').map(Number)
  if (!step || !now) return
  const next = `${(now[0] ?? 0) + step[0]} ${(now[1] ?? 0) + step[1]}`
  const cell = event.currentTarget.querySelector<HTMLElement>(`[data-cell='${next}']`)
  if (!cell) return
  event.preventDefault()
  cell.focus()
}
