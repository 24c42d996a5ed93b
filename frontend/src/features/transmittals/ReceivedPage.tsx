import { Link, useNavigate } from '@tanstack/react-router'

import type { Schemas } from '../../api/client'
import { counted } from '../../domain/counted'
import { ListTable, type Column } from '../../ui/ListTable'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { Day, When } from '../../ui/Standing'
import { useReceivedLog } from './useTransmittals'

type Row = Schemas['Received']

const COLUMNS: Column<Row>[] = [
  {
    key: 'number',
    head: 'Their number',
    width: '150px',
    cell: (row) => <span className="code">{row.number}</span>,
  },
  {
    key: 'from',
    head: 'From',
    width: 'minmax(140px, 1fr)',
    cell: (row) => [row.company, row.person].filter(Boolean).join(', '),
  },
  { key: 'dated', head: 'Of', width: '84px', cell: (row) => <Day on={row.dated} /> },
  { key: 'came', head: 'Came', width: '84px', cell: (row) => <Day on={row.came_on} /> },
  { key: 'here', head: 'Here', width: '120px', cell: (row) => <Here row={row} /> },
  { key: 'proof', head: 'Proof', width: '110px', cell: (row) => <Proof row={row} /> },
  {
    key: 'receipt',
    head: 'Receipt',
    width: '100px',
    cell: (row) =>
      row.receipt_at ? <When at={row.receipt_at} /> : <span className="text-ochre">not sent</span>,
  },
]

const SLIPS = slipsOf(COLUMNS, { what: 'from', beside: ['here'], below: ['number', 'came', 'receipt'] })

function Here({ row }: { row: Row }) {
  const fine = row.here === row.documents && !row.more.length
  return (
    <span className={fine ? 'text-spruce' : 'text-ochre'}>
      {row.here} of {row.documents}
      {row.more.length > 0 && `, ${row.more.length} more`}
    </span>
  )
}

function Proof({ row }: { row: Row }) {
  if (!row.from_bag) return <span className="text-second">typed list</span>
  if (row.faults.length) return <span className="text-brick">not as sent</span>
  return row.proven ? <span className="text-spruce">proven</span> : <span className="text-second">whole</span>
}

/** What other companies say they sent, against what came; each is looked at where its files are, in Intake. */
export function ReceivedPage() {
  const { list, rows, total, more } = useReceivedLog()
  const navigate = useNavigate()
  return (
    <section aria-label="Transmittals that came in" className="flex h-full min-w-0 flex-col">
      <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
        <div>
          <h1 className="text-head font-semibold">Transmittals that came in</h1>
          <p className="text-list text-second">
            {list.isPending ? 'Entered' : `${counted(total, 'transmittal')}, entered`} with their files in
            Intake.
          </p>
        </div>
        <Link to="/transmittals" className="inline-flex min-h-6 items-center text-list text-plum underline">
          What was sent
        </Link>
      </header>
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {list.isPending ? (
        <Loading what="what came in" />
      ) : (
        <ListTable
          label="Transmittals that came in"
          rows={rows}
          total={total}
          onNearEnd={more}
          rowId={(row) => row.id}
          columns={COLUMNS}
          slips={SLIPS}
          onShow={(row) => void navigate({ to: '/intake/$batchId', params: { batchId: row.batch_id } })}
          empty={
            <Empty>
              Nothing came in with a transmittal yet. Drop its ZIP in Intake, or enter its list beside the
              files that came.
            </Empty>
          }
        />
      )}
    </section>
  )
}
