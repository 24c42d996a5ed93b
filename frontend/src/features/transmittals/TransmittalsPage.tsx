import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router'

import { hasLevel, useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ListTable, type Column } from '../../ui/ListTable'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { Day, When } from '../../ui/Standing'
import { TakeLog } from '../../ui/TakeLog'
import { Views } from '../../ui/Views'
import { Drafts } from './Drafts'
import { DueByMatrix } from './DueByMatrix'
import { isNarrowed, readLog, type LogSearch } from './logSearch'
import { TransmittalFilters } from './TransmittalFilters'
import { TransmittalPanel } from './TransmittalPanel'
import { useChase, useTransmittalLog, type Line } from './useTransmittals'

const COLUMNS: Column<Line>[] = [
  {
    key: 'number',
    head: 'Number',
    width: '116px',
    cell: (row) => <span className="code">{row.number}</span>,
  },
  {
    key: 'purpose',
    head: 'Purpose',
    width: 'minmax(120px, 1fr)',
    cell: (row) => (
      <>
        {row.purpose}
        {row.void && <span className="ml-2 font-semibold text-brick">void</span>}
      </>
    ),
  },
  { key: 'documents', head: 'Docs', width: '50px', cell: (row) => row.documents },
  { key: 'sender', head: 'Sent by', width: '140px', cell: (row) => row.sent_by.name },
  {
    key: 'acknowledged',
    head: 'Acknowledged',
    width: '110px',
    cell: (row) => `${row.acknowledged} of ${row.recipients}`,
  },
  {
    key: 'with',
    head: 'With',
    width: '180px',
    cell: (row) => <span title={row.with_whom}>{row.with_whom}</span>,
  },
  { key: 'since', head: 'Since', width: '76px', cell: (row) => <When at={row.sent_at} /> },
  { key: 'due', head: 'Due', width: '84px', cell: (row) => <Day on={row.answer_wanted_on} /> },
]

const SLIPS = slipsOf(COLUMNS, {
  what: 'purpose',
  beside: ['acknowledged'],
  below: ['number', 'with', 'since'],
})
const NARROW = new Set(['number', 'purpose', 'acknowledged', 'with'])

/** What was sent to whom, newest first, and what is being prepared; narrowed as the address says. */
export function TransmittalsPage() {
  const { transmittalId } = useParams({ strict: false })
  const search = readLog(useSearch({ strict: false }))
  const navigate = useNavigate()
  return (
    <div className="flex h-full">
      <section aria-label="Transmittals" className="flex min-w-0 flex-1 flex-col">
        <Head search={search} />
        <DueByMatrix />
        <Drafts />
        <Log search={search} openId={transmittalId} />
      </section>
      {transmittalId && (
        <TransmittalPanel
          key={transmittalId}
          transmittalId={transmittalId}
          onClose={() => void navigate({ to: '/transmittals', search })}
        />
      )}
    </div>
  )
}

function Head({ search }: { search: LogSearch }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  return (
    <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Transmittals</h1>
      <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Views
          of="transmittals"
          now={readLog({ ...search })}
          read={readLog}
          onOpen={(kept) => void navigate({ to: '.', search: readLog(kept) as never })}
        />
        <TakeLog address="/api/transmittals/taken" search={search} />
        <Link
          to="/transmittals/holders"
          className="inline-flex min-h-6 items-center text-list text-plum underline"
        >
          Holders
        </Link>
        {hasLevel(project, 'file') && (
          <Link
            to="/transmittals/received"
            className="inline-flex min-h-6 items-center text-list text-plum underline"
          >
            Came in
          </Link>
        )}
        {hasLevel(project, 'file') && (
          <Button onClick={() => void navigate({ to: '/transmittals/new' })}>Prepare one</Button>
        )}
      </span>
    </header>
  )
}

function Log({ search, openId }: { search: LogSearch; openId: string | undefined }) {
  const { list, rows, first, total, more } = useTransmittalLog(search)
  const navigate = useNavigate()
  const empty = isNarrowed(search)
    ? 'No transmittal is like that.'
    : 'Nothing has been sent out. Close a review and send its documents, or mark some in the register.'
  return (
    <>
      <TransmittalFilters
        search={search}
        total={first ? total : null}
        companies={first?.companies ?? []}
        purposes={first?.purposes ?? []}
      />
      <Silent rows={rows} />
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {list.isPending ? (
        <Loading what="the transmittals" />
      ) : (
        <ListTable
          label="Transmittals"
          rows={rows}
          total={total}
          onNearEnd={more}
          rowId={(row) => row.id}
          columns={openId ? COLUMNS.filter((column) => NARROW.has(column.key)) : COLUMNS}
          slips={SLIPS}
          openId={openId}
          onShow={(row) =>
            void navigate({ to: '/transmittals/$transmittalId', params: { transmittalId: row.id }, search })
          }
          empty={<Empty>{empty}</Empty>}
        />
      )}
    </>
  )
}

/** Of what my company sent and is listed, those that somebody has not acknowledged: reminded in one act. */
function Silent({ rows }: { rows: readonly Line[] }) {
  const { me, project } = useSeat()
  const chase = useChase()
  const silent = rows.filter(
    (row) => !row.void && row.acknowledged < row.recipients && row.sent_by.company === me.person.company,
  )
  if (!hasLevel(project, 'file') || silent.length < 2) return null
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-1 text-list">
      <span className="text-second">
        {silent.length} of these are not acknowledged by all. Each silent recipient gets one mail a day at
        most.
      </span>
      <Button small busy={chase.isPending} onClick={() => chase.mutate(silent.map((row) => row.id))}>
        Remind them all
      </Button>
      {chase.data && (
        <span role="status">
          {chase.data.people
            ? `${counted(chase.data.people, 'person', 'people')} reminded.`
            : 'Nobody more to remind today.'}
        </span>
      )}
      <ErrorNote error={chase.error} />
    </div>
  )
}
