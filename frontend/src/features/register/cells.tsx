import { Copy } from 'lucide-react'
import type { ReactNode } from 'react'

import { useSeat } from '../../api/me'
import { bytesText } from '../../domain/bytes'
import { VerdictMark } from '../../ui/Stamp'
import { Day, Due, When } from '../../ui/Standing'
import type { Column } from '../../ui/ListTable'
import type { SlipPart } from '../../ui/listTypes'
import { slipsOf } from '../../ui/slips'
import type { ColumnShown, DocumentLine } from './useRegister'

type Line = DocumentLine

const Code = ({ children }: { children: ReactNode }) => <span className="code">{children}</span>
const Said = ({ children }: { children: string }) => <span title={children}>{children}</span>

const CELLS: Record<string, (row: Line) => ReactNode> = {
  number: (row) => (
    <span
      className={`code ${row.withdrawn ? 'line-through' : ''}`}
      title={row.withdrawn ? `${row.number}, withdrawn` : row.number}
    >
      {row.number}
    </span>
  ),
  title: (row) => <Said>{row.title}</Said>,
  discipline: (row) => <Worded column="discipline" code={row.discipline} />,
  revision: (row) => (
    <span className="flex items-center gap-0.5">
      <span className="code font-bold">{row.revision}</span>
      <CopySign row={row} />
    </span>
  ),
  in_force: (row) => <InForceCell row={row} />,
  release: (row) => <span className={RELEASE_TONES[row.release] ?? ''}>{RELEASES[row.release]}</span>,
  status: (row) => <StatusCell code={row.status} />,
  verdict: (row) => <VerdictMark code={row.verdict} />,
  with_whom: (row) => <Said>{row.standing.with_whom ?? ''}</Said>,
  since_at: (row) => <When at={row.standing.since_at} />,
  due_on: (row) => <Due standing={row.standing} />,
  size_bytes: (row) => <span className="tabular-nums">{bytesText(row.size_bytes)}</span>,
  sha256: (row) => (
    <span className="code" title={row.sha256}>
      {row.sha256.slice(0, 12)}…
    </span>
  ),
  filed_at: (row) => <When at={row.filed_at} />,
  arrived_at: (row) => <When at={row.arrived_at} />,
  folder: (row) => <FolderCell row={row} />,
  sets: (row) => <Said>{row.sets.join(', ')}</Said>,
  purpose: (row) => <Said>{row.purpose}</Said>,
  filed_by: (row) => row.filed_by,
  came_from: (row) => <Said>{row.came_from}</Said>,
  came_person: (row) => <Said>{row.came_person}</Said>,
  came_by: (row) => <Said>{row.came_by}</Said>,
  file_kinds: (row) => <Code>{row.file_kinds}</Code>,
  file_name: (row) => <Said>{row.file_name}</Said>,
  checked_out: (row) => <Said>{row.checked_out}</Said>,
  withdrawn: (row) => (row.withdrawn ? 'withdrawn' : ''),
}
const CODES = ['originator', 'form', 'zone', 'level', 'scale', 'sheet_size', 'kind'] as const

/** The cell of a column, those of typed fields too. */
export function cellOf(column: ColumnShown): (row: Line) => ReactNode {
  const own = CELLS[column.key]
  if (own) return own
  const plain = CODES.find((key) => key === column.key)
  if (plain) return (row) => <Code>{row[plain]}</Code>
  const field = column.key.replace(/^field:/, '')
  if (column.kind === 'date') return (row) => <Day on={row.fields[field]} />
  if (column.kind === 'number') return (row) => <span className="tabular-nums">{row.fields[field]}</span>
  return (row) => <Said>{row.fields[field] ?? ''}</Said>
}

function Worded({ column, code }: { column: 'discipline'; code: string }) {
  const { project } = useSeat()
  const words = column === 'discipline' ? project.disciplines[code] : undefined
  return (
    <span title={words}>
      <span className="code font-bold">{code}</span> <span className="text-second">{words}</span>
    </span>
  )
}

const RELEASES: Record<string, string> = {
  same: 'the latest is in force',
  newer: 'a later one is not released',
  none: 'nothing is in force',
  passed: 'another is in force than this copy',
}
const RELEASE_TONES: Record<string, string> = {
  newer: 'text-ochre',
  none: 'text-second',
  passed: 'text-brick',
}

const alsoIn = (row: Line) =>
  row.also_in
    .filter((copy) => !copy.taken_out)
    .map((copy) => `${copy.folder} (${copy.revision})`)
    .join(', ')

/** In its folder lies a copy, or copies of it lie in others. */
function CopySign({ row }: { row: Line }) {
  const also = alsoIn(row)
  if (!row.is_copy && !also) return null
  const words = row.is_copy ? 'a copy in this folder' : `also in ${also}`
  return (
    <span
      role="img"
      aria-label={words}
      title={words}
      className={`shrink-0 ${row.is_copy ? 'text-slate' : 'text-second'}`}
    >
      <Copy size={10} aria-hidden />
    </span>
  )
}

/** Where it lies, and for whoever sees them where its copies lie; a copy says that it is one. */
function FolderCell({ row }: { row: Line }) {
  const also = alsoIn(row)
  const words = `${row.folder}${row.is_copy ? ', a copy' : ''}${also ? `; also in ${also}` : ''}`
  return (
    <span title={words}>
      {row.folder}
      {row.is_copy && <span className="text-second">, a copy</span>}
      {also && <span className="text-second">; also in {also}</span>}
    </span>
  )
}

/** Quiet where the latest is in force; ochre where the sheet to work from is an older one. */
function InForceCell({ row }: { row: Line }) {
  if (row.release === 'passed')
    return (
      <span className="font-semibold text-brick" title={RELEASES.passed}>
        superseded
      </span>
    )
  if (!row.in_force) return <span title={RELEASES.none} />
  const older = row.release === 'newer'
  return (
    <span
      className={`code ${older ? 'font-bold text-ochre' : 'text-second'}`}
      title={older ? `${row.in_force} is in force; ${row.revision} is not released` : RELEASES.same}
    >
      {row.in_force}
    </span>
  )
}

function StatusCell({ code }: { code: string }) {
  const { project } = useSeat()
  return (
    <span className="code" title={project.statuses[code]}>
      {code}
    </span>
  )
}

/** With the dossier open the usual list keeps what tells a line apart and who has it. */
const NARROW: Record<string, string> = {
  number: '190px',
  title: 'minmax(90px, 1fr)',
  revision: '48px',
  in_force: '62px',
  verdict: '60px',
  with_whom: 'minmax(84px, 0.7fr)',
  due_on: '118px',
}

/** What a line shows on a phone, whichever columns are chosen. */
export function slipsFor(all: readonly ColumnShown[]): SlipPart<Line>[] {
  const columns = all.map((column) => ({
    key: column.key,
    head: column.head,
    width: '',
    cell: cellOf(column),
  }))
  return slipsOf(columns, {
    what: 'title',
    beside: ['revision', 'status', 'verdict'],
    below: ['number', 'with_whom', 'due_on'],
  })
}

/** The columns of the list: those chosen, in their order and widths, or the usual ones. */
export function listColumns(
  all: readonly ColumnShown[],
  usual: readonly string[],
  chosen: readonly [string, number][] | undefined,
  frozen: number,
  narrow: boolean,
): Column<Line>[] {
  const byKey = new Map(all.map((column) => [column.key, column]))
  const wanted: readonly (readonly [string, number])[] = chosen ?? usual.map((key) => [key, 0] as const)
  return wanted.flatMap(([key, width], place) => {
    const column = byKey.get(key)
    if (!column || (!chosen && narrow && !NARROW[key])) return []
    const usualTrack = key === 'title' && place >= frozen ? 'minmax(150px, 1fr)' : `${column.width}px`
    const track = width ? `${width}px` : !chosen && narrow ? (NARROW[key] ?? usualTrack) : usualTrack
    return [{ key, head: column.head, width: track, sorts: column.sorts, cell: cellOf(column) }]
  })
}
