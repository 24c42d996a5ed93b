import { useQuery } from '@tanstack/react-query'
import { useNavigate, useParams } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { ListTable, type Column } from '../../ui/ListTable'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { Day, When } from '../../ui/Standing'
import { TransmittalPanel } from './TransmittalPanel'

type Line = Schemas['TransmittalLine']

const COLUMNS: Column<Line>[] = [
  {
    key: 'number',
    head: 'Number',
    width: '116px',
    cell: (row) => <span className="code">{row.number}</span>,
  },
  { key: 'purpose', head: 'Purpose', width: 'minmax(120px, 1fr)', cell: (row) => row.purpose },
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

/** What was sent to whom, newest first. */
export function TransmittalsPage() {
  const { transmittalId } = useParams({ strict: false })
  const { project } = useSeat()
  const navigate = useNavigate()
  const list = useQuery({
    queryKey: ['transmittals', project.id],
    queryFn: () => unwrap(api.GET('/api/transmittals', { params: { query: { project_id: project.id } } })),
  })
  return (
    <div className="flex h-full">
      <section aria-label="Transmittals" className="flex min-w-0 flex-1 flex-col">
        <header className="border-b border-line px-4 py-2.5">
          <h1 className="text-head font-semibold">Transmittals</h1>
        </header>
        <ErrorNote error={list.error} again={() => void list.refetch()} />
        {list.isPending ? (
          <Loading what="the transmittals" />
        ) : (
          <ListTable
            label="Transmittals"
            rows={list.data ?? []}
            rowId={(row) => row.id}
            columns={transmittalId ? COLUMNS.filter((column) => NARROW.has(column.key)) : COLUMNS}
            slips={SLIPS}
            openId={transmittalId}
            onShow={(row) =>
              void navigate({ to: '/transmittals/$transmittalId', params: { transmittalId: row.id } })
            }
            empty={
              <Empty>
                Nothing has been sent out. Close a review and send its documents, or mark some in the
                register.
              </Empty>
            }
          />
        )}
      </section>
      {transmittalId && (
        <TransmittalPanel
          key={transmittalId}
          transmittalId={transmittalId}
          onClose={() => void navigate({ to: '/transmittals' })}
        />
      )}
    </div>
  )
}
