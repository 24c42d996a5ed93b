import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { X } from 'lucide-react'
import { useMemo, useState } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Select } from '../../../ui/Field'
import { slipsOf } from '../../../ui/slips'
import { ListTable, type Column } from '../../../ui/ListTable'
import { Empty, ErrorNote, Loading } from '../../../ui/Notes'
import { Day } from '../../../ui/Standing'
import { PlannedCounts } from './PlannedCounts'
import { PlannedImport } from './PlannedImport'
import { RegisterNav } from '../RegisterNav'

type Line = Schemas['PlannedLine']

const STATES: Record<string, string> = { received: 'received', late: 'late', planned: 'planned' }

function State({ line }: { line: Line }) {
  if (line.state === 'late')
    return (
      <span className="font-semibold text-brick">{line.days_late > 0 && `${line.days_late} d `}late</span>
    )
  if (line.state === 'received')
    return (
      <span className="text-spruce">
        received <Day on={line.received_on} />
      </span>
    )
  return <span className="text-second">planned</span>
}

/** What each company has promised, and what of it has come. */
export function PlannedPage() {
  const { project } = useSeat()
  const [adding, setAdding] = useState(false)
  const [company, setCompany] = useState('')
  const [discipline, setDiscipline] = useState('')
  const [state, setState] = useState('')
  const list = useQuery({
    queryKey: ['planned', project.id],
    queryFn: () => unwrap(api.GET('/api/planned', { params: { query: { project_id: project.id } } })),
  })
  const all = useMemo(() => list.data?.lines ?? [], [list.data])
  const shown = useMemo(
    () =>
      all.filter(
        (line) =>
          (!company || line.company === company) &&
          (!discipline || line.discipline === discipline) &&
          (!state || line.state === state),
      ),
    [all, company, discipline, state],
  )
  const may = list.data?.may_change ?? false
  const [taken, setTaken] = useState<Line | null>(null)
  const columns = useMemo(() => columnsFor(may, setTaken), [may])
  return (
    <section aria-label="Planned documents" className="flex h-full flex-col">
      <RegisterNav>
        {may && (
          <Button look="act" onClick={() => setAdding(true)}>
            Take in a list
          </Button>
        )}
      </RegisterNav>
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {list.isPending && <Loading what="the planned documents" />}
      {list.data && all.length === 0 && (
        <Empty act={may && <Button onClick={() => setAdding(true)}>Take in a list</Button>}>
          Nothing is planned yet. A spreadsheet with the numbers that each company has promised, and the day
          of each, shows here what is late before anybody asks.
        </Empty>
      )}
      {list.data && all.length > 0 && (
        <>
          <PlannedCounts
            list={list.data}
            chosen={{ company, discipline }}
            onChoose={(next) => {
              setCompany(next.company)
              setDiscipline(next.discipline)
            }}
          />
          <div className="flex items-center gap-2 border-t border-line px-4 py-2">
            <Select
              hideLabel
              label="State"
              className="w-[150px]"
              value={state}
              onChange={setState}
              choices={[
                { code: '', words: 'In any state' },
                ...Object.entries(STATES).map(([code, words]) => ({ code, words: `Only ${words}` })),
              ]}
            />
            {(company || discipline || state) && (
              <Button
                onClick={() => {
                  setCompany('')
                  setDiscipline('')
                  setState('')
                }}
              >
                Show all
              </Button>
            )}
            <span role="status" className="ml-auto text-second">
              {shown.length.toLocaleString('en-GB')} of {all.length.toLocaleString('en-GB')} planned documents
            </span>
          </div>
          {taken && <PutBack key={taken.number} line={taken} onGone={() => setTaken(null)} />}
          <ListTable
            label="Planned documents"
            rows={shown}
            rowId={(line) => line.number}
            columns={columns}
            slips={slipsOf(columns, {
              what: 'title',
              beside: ['revision', 'act'],
              below: ['number', 'state'],
            })}
            onShow={() => undefined}
            empty={<Empty>No planned document fits.</Empty>}
          />
        </>
      )}
      {adding && <PlannedImport onClose={() => setAdding(false)} />}
    </section>
  )
}

function columnsFor(may: boolean, onTaken: (line: Line) => void): Column<Line>[] {
  const columns: Column<Line>[] = [
    {
      key: 'number',
      head: 'Number',
      width: '210px',
      cell: (line) =>
        line.document_id ? (
          <Link to="/register" search={{ document: line.document_id }} className="code text-plum underline">
            {line.number}
          </Link>
        ) : (
          <span className="code">{line.number}</span>
        ),
    },
    {
      key: 'title',
      head: 'Title',
      width: 'minmax(160px, 1fr)',
      cell: (line) => <span title={line.title}>{line.title}</span>,
    },
    {
      key: 'company',
      head: 'Company',
      width: '90px',
      cell: (line) => <span className="code">{line.company}</span>,
    },
    {
      key: 'discipline',
      head: 'Discipline',
      width: '90px',
      cell: (line) => <span className="code">{line.discipline}</span>,
    },
    { key: 'planned', head: 'Planned', width: '110px', cell: (line) => <Day on={line.planned_on} /> },
    { key: 'state', head: 'State', width: '160px', cell: (line) => <State line={line} /> },
    {
      key: 'revision',
      head: 'Rev',
      width: '60px',
      cell: (line) => <span className="code font-bold">{line.revision}</span>,
    },
  ]
  if (may)
    columns.push({
      key: 'act',
      head: 'Act',
      width: '44px',
      cell: (line) => <TakeOut line={line} onTaken={onTaken} />,
    })
  return columns
}

/** A promise that was taken off the plan, until it is put back or another is taken off. */
function PutBack({ line, onGone }: { line: Line; onGone: () => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const put = useMutation({
    mutationFn: () => {
      const { number, title, company, discipline, planned_on } = line
      const body = { project_id: project.id, number, title, company, discipline, planned_on, version: 0 }
      return unwrap(api.POST('/api/planned', { body }))
    },
    onSuccess: onGone,
    onSettled: () => client.invalidateQueries({ queryKey: ['planned'] }),
  })
  return (
    <div role="status" className="flex items-center gap-3 border-t border-line bg-spruce-tint px-4 py-1">
      <span>
        <span className="code">{line.number}</span> was taken off the plan.
      </span>
      <Button small busy={put.isPending} onClick={() => put.mutate()}>
        Undo
      </Button>
      <ErrorNote error={put.error} />
    </div>
  )
}

function TakeOut({ line, onTaken }: { line: Line; onTaken: (line: Line) => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const remove = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/planned/remove', {
          body: { project_id: project.id, number: line.number, version: line.version },
        }),
      ),
    onSuccess: () => onTaken(line),
    onSettled: () => client.invalidateQueries({ queryKey: ['planned'] }),
  })
  return (
    <button
      type="button"
      aria-label={`Take ${line.number} off the plan`}
      title="Take off the plan"
      className="p-1.5 text-second hover:text-brick"
      onClick={(event) => {
        event.stopPropagation()
        remove.mutate()
      }}
    >
      <X size={14} />
    </button>
  )
}
