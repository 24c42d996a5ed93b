import { useNavigate, useParams, useSearch } from '@tanstack/react-router'

import { hasLevel, useSeat } from '../../api/me'
import { countedOnceRead } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { ListTable, type Column } from '../../ui/ListTable'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { OwnTime } from '../../ui/Standing'
import { TakeLog } from '../../ui/TakeLog'
import { SessionPanel } from './SessionPanel'
import { isNarrowed, readSessions, type SessionSearch } from './sessionSearch'
import { useSessionLog, type Line } from './useSessions'

const LOOKS = { open: 'text-spruce', 'to come': 'text-slate', closed: 'text-second' } as const

function State({ row }: { row: Line }) {
  return <span className={`font-semibold ${LOOKS[row.state]}`}>{row.state}</span>
}

const COLUMNS: Column<Line>[] = [
  { key: 'number', head: 'Number', width: '84px', cell: (row) => <span className="code">{row.number}</span> },
  {
    key: 'name',
    head: 'Name',
    width: 'minmax(160px, 1fr)',
    cell: (row) => <span title={row.name}>{row.name}</span>,
  },
  { key: 'state', head: 'State', width: '76px', cell: (row) => <State row={row} /> },
  { key: 'host', head: 'Host', width: '150px', cell: (row) => row.host.name },
  { key: 'opens', head: 'From', width: '116px', cell: (row) => <OwnTime at={row.opens_at} /> },
  {
    key: 'closes',
    head: 'To',
    width: '116px',
    cell: (row) => <OwnTime at={row.closed_at ?? row.closes_at} />,
  },
  { key: 'sheets', head: 'Sheets', width: '64px', cell: (row) => row.sheets },
  { key: 'came', head: 'Came', width: '60px', cell: (row) => (row.state === 'to come' ? '' : row.came) },
  {
    key: 'open',
    head: 'Open marks',
    width: '100px',
    cell: (row) => (row.marks ? `${row.open_marks} of ${row.marks}` : ''),
  },
]

const SLIPS = slipsOf(COLUMNS, { what: 'name', beside: ['state'], below: ['number', 'opens', 'open'] })
const NARROW = new Set(['number', 'name', 'state', 'opens'])

/** The sessions: open, to come, closed; narrowed as the address says. */
export function SessionsPage() {
  const { sessionId } = useParams({ strict: false })
  const search = readSessions(useSearch({ strict: false }))
  const navigate = useNavigate()
  return (
    <div className="flex h-full">
      <section aria-label="Sessions" className="flex min-w-0 flex-1 flex-col">
        <Head search={search} />
        <Log search={search} openId={sessionId} />
      </section>
      {sessionId && (
        <SessionPanel
          key={sessionId}
          sessionId={sessionId}
          onClose={() => void navigate({ to: '/sessions', search })}
        />
      )}
    </div>
  )
}

function Head({ search }: { search: SessionSearch }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  return (
    <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Sessions</h1>
      <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <TakeLog address="/api/sessions/taken" search={search} />
        {hasLevel(project, 'file') && (
          <Button onClick={() => void navigate({ to: '/register' })}>Make one from the register</Button>
        )}
      </span>
    </header>
  )
}

const STATES = [
  ['', 'in any state'],
  ['open', 'open'],
  ['to come', 'to come'],
  ['closed', 'closed'],
]

function Filters({ search, total }: { search: SessionSearch; total: number | null }) {
  const navigate = useNavigate()
  const set = (part: SessionSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
  const nothing = { words: undefined, document: undefined, state: undefined, mine: undefined }
  return (
    <NarrowRow
      label="Narrow the sessions"
      count={countedOnceRead(total, 'session')}
      onAll={isNarrowed(search) ? () => set(nothing) : undefined}
    >
      <NarrowTyped label="Number or name" value={search.words} onChange={(words) => set({ words })} />
      <NarrowTyped label="Document" value={search.document} onChange={(document) => set({ document })} />
      <NarrowChoice
        label="State"
        value={search.state}
        choices={STATES}
        onChange={(state) => set({ state: state as SessionSearch['state'] })}
      />
      <Checkbox
        label="Mine"
        checked={search.mine === true}
        onChange={(on) => set({ mine: on || undefined })}
      />
    </NarrowRow>
  )
}

function Log({ search, openId }: { search: SessionSearch; openId: string | undefined }) {
  const { list, rows, first, total, more } = useSessionLog(search)
  const navigate = useNavigate()
  const empty = isNarrowed(search)
    ? 'No session is like that.'
    : 'There is no session for you yet. Mark sheets in the register and make one: people go through them together, at the same time.'
  return (
    <>
      <Filters search={search} total={first ? total : null} />
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {list.isPending ? (
        <Loading what="the sessions" />
      ) : (
        <ListTable
          label="Sessions"
          rows={rows}
          total={total}
          onNearEnd={more}
          rowId={(row) => row.id}
          columns={openId ? COLUMNS.filter((column) => NARROW.has(column.key)) : COLUMNS}
          slips={SLIPS}
          openId={openId}
          onShow={(row) =>
            void navigate({ to: '/sessions/$sessionId', params: { sessionId: row.id }, search })
          }
          empty={<Empty>{empty}</Empty>}
        />
      )}
    </>
  )
}
