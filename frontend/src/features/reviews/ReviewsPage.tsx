import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router'

import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { hasLevel, useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { TakeLog } from '../../ui/TakeLog'
import { ListTable, type Column } from '../../ui/ListTable'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { Views } from '../../ui/Views'
import { Due, When } from '../../ui/Standing'
import { Absences } from './Absences'
import { LogFilters } from './LogFilters'
import { isNarrowed, readLog, type LogSearch } from './logSearch'
import { ReviewPanel } from './ReviewPanel'
import { useReviewLog } from './useReviews'

type Line = Schemas['ReviewLine']

const COLUMNS: Column<Line>[] = [
  { key: 'number', head: 'Number', width: '84px', cell: (row) => <span className="code">{row.number}</span> },
  {
    key: 'name',
    head: 'Name',
    width: 'minmax(150px, 1fr)',
    cell: (row) => <span title={row.name}>{row.name}</span>,
  },
  { key: 'documents', head: 'Docs', width: '50px', cell: (row) => row.documents },
  {
    key: 'step',
    head: 'Step',
    width: '84px',
    cell: (row) => (row.state === 'running' ? row.step : <State row={row} />),
  },
  {
    key: 'with',
    head: 'With',
    width: '150px',
    cell: (row) => <span title={row.standing.with_whom}>{row.standing.with_whom}</span>,
  },
  { key: 'since', head: 'Since', width: '70px', cell: (row) => <When at={row.standing.since_at} /> },
  { key: 'due', head: 'Due', width: '124px', cell: (row) => <Due standing={row.standing} /> },
  { key: 'started', head: 'Started by', width: '130px', cell: (row) => row.started_by.name },
]

const SLIPS = slipsOf(COLUMNS, { what: 'name', beside: ['step'], below: ['number', 'with', 'due'] })
const NARROW = new Set(['number', 'name', 'step', 'with', 'due'])

function State({ row }: { row: Line }) {
  return (
    <span className={row.state === 'closed' ? 'font-semibold text-spruce' : 'text-second'}>{row.state}</span>
  )
}

/** Running reviews first, the soonest due on top; narrowed as the address says. */
export function ReviewsPage() {
  const { reviewId } = useParams({ strict: false })
  const search = readLog(useSearch({ strict: false }))
  const navigate = useNavigate()
  const [away, setAway] = useState(false)
  return (
    <div className="flex h-full">
      <section aria-label="Reviews" className="flex min-w-0 flex-1 flex-col">
        <Head search={search} onAway={() => setAway(true)} />
        <Log search={search} openId={reviewId} />
      </section>
      {away && <Absences onClose={() => setAway(false)} />}
      {reviewId && (
        <ReviewPanel reviewId={reviewId} onClose={() => void navigate({ to: '/reviews', search })} />
      )}
    </div>
  )
}

function Log({ search, openId }: { search: LogSearch; openId: string | undefined }) {
  const { list, rows, total, routes, more } = useReviewLog(search)
  const navigate = useNavigate()
  const empty = isNarrowed(search)
    ? 'No review is like that.'
    : 'No review has been started. Mark documents in the register and send them on a route.'
  return (
    <>
      <LogFilters search={search} routes={routes} total={list.isPending ? null : total} />
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {list.isPending ? (
        <Loading what="the reviews" />
      ) : (
        <ListTable
          label="Reviews"
          rows={rows}
          total={total}
          onNearEnd={more}
          rowId={(row) => row.id}
          columns={openId ? COLUMNS.filter((column) => NARROW.has(column.key)) : COLUMNS}
          slips={SLIPS}
          openId={openId}
          onShow={(row) => void navigate({ to: '/reviews/$reviewId', params: { reviewId: row.id }, search })}
          empty={<Empty>{empty}</Empty>}
        />
      )}
    </>
  )
}

function Head({ search, onAway }: { search: LogSearch; onAway: () => void }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  return (
    <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Reviews</h1>
      <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Views
          of="reviews"
          now={readLog({ ...search })}
          read={readLog}
          onOpen={(kept) => void navigate({ to: '.', search: readLog(kept) as never })}
        />
        <TakeLog address="/api/reviews/taken" search={search} />
        <Button small onClick={onAway}>
          Who is away
        </Button>
        {project.runs && (
          <>
            <Link
              to="/reviews/late"
              className="inline-flex min-h-6 items-center text-list text-plum underline"
            >
              Late
            </Link>
            <Link
              to="/reviews/routes"
              className="inline-flex min-h-6 items-center text-list text-plum underline"
            >
              Routes
            </Link>
          </>
        )}
        {hasLevel(project, 'file') && (
          <Button onClick={() => void navigate({ to: '/register' })}>Start one from the register</Button>
        )}
      </span>
    </header>
  )
}
