import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { countedOnceRead } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ListTable, type Column } from '../../ui/ListTable'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { VerdictMark } from '../../ui/Stamp'
import { Day, Due, When } from '../../ui/Standing'
import { TakeLog } from '../../ui/TakeLog'
import { MakeSubmittal } from './DetailsForm'
import { MarkedActs } from './MarkedActs'
import { Float, Rail, RailLegend } from './Rail'
import { StateBar } from './StateBar'
import { SubmittalPanel } from './SubmittalPanel'
import { isNarrowed, readSubmittals, type Sort, type SubmittalSearch } from './submittalSearch'
import { useSubmittalChoices, useSubmittalLog, type Line } from './useSubmittals'

const COLUMNS: Column<Line>[] = [
  {
    key: 'number',
    head: 'Number',
    width: '118px',
    sorts: true,
    cell: (row) => <span className="code whitespace-nowrap">{row.shown}</span>,
  },
  {
    key: 'title',
    head: 'Title',
    width: 'minmax(150px, 1.2fr)',
    cell: (row) => <span title={row.title}>{row.title}</span>,
  },
  {
    key: 'company',
    head: 'From',
    width: '52px',
    cell: (row) => <span title={row.company_name}>{row.company}</span>,
  },
  {
    key: 'with',
    head: 'With',
    width: '132px',
    cell: (row) => <span title={row.standing.with_whom}>{row.standing.with_whom}</span>,
  },
  { key: 'due', head: 'Due', width: '112px', sorts: true, cell: (row) => <Due standing={row.standing} /> },
  { key: 'state', head: 'State', width: '100px', cell: (row) => <StateShown row={row} /> },
  { key: 'float', head: 'Float', width: '74px', sorts: true, cell: (row) => <Float line={row} /> },
  {
    key: 'rail',
    head: 'Until the day on site',
    width: 'minmax(130px, 1fr)',
    cell: (row) => row.rail && <Rail rail={row.rail} float={row.float_days ?? 0} />,
  },
  {
    key: 'required',
    head: 'On site',
    width: '86px',
    sorts: true,
    cell: (row) => <Day on={row.delivered_on ?? row.required_on} />,
  },
  { key: 'since', head: 'Since', width: '62px', cell: (row) => <When at={row.standing.since_at} /> },
  {
    key: 'kind',
    head: 'Kind',
    width: '96px',
    cell: (row) => <span title={row.kind_words}>{row.kind_words}</span>,
  },
  {
    key: 'section',
    head: 'Section',
    width: '84px',
    sorts: true,
    cell: (row) => <span className="code">{row.section}</span>,
  },
]

const SLIPS = slipsOf(COLUMNS, {
  what: 'title',
  beside: ['float'],
  below: ['number', 'with', 'due', 'state'],
})
const NARROW = new Set(['number', 'title', 'state', 'float'])
const SORTS: readonly Sort[] = ['float', 'number', 'required', 'latest', 'due', 'section']

function StateShown({ row }: { row: Line }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      {row.verdict && <VerdictMark code={row.verdict} />}
      <span className={row.state === 'void' ? 'text-second line-through' : ''}>{row.state}</span>
    </span>
  )
}

/** The log of submittals: those with the least float on top, so that it is the list to chase by. */
export function SubmittalsPage() {
  const { submittalId } = useParams({ strict: false })
  const search = readSubmittals(useSearch({ strict: false }))
  const navigate = useNavigate()
  const [making, setMaking] = useState(false)
  const log = useSubmittalLog(search)
  const show = (id: string) =>
    void navigate({ to: '/submittals/$submittalId', params: { submittalId: id }, search })
  return (
    <div className="flex h-full">
      <section aria-label="Submittals" className="flex min-w-0 flex-1 flex-col">
        <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
          <h1 className="text-head font-semibold">Submittals</h1>
          <span className="flex flex-wrap items-center gap-x-4 gap-y-1">
            <RailLegend />
            <TakeLog address="/api/submittals/taken" search={search} />
            {log.first?.may_make && <Button onClick={() => setMaking(true)}>New submittal</Button>}
          </span>
        </header>
        <Log search={search} log={log} openId={submittalId} onShow={show} />
      </section>
      {submittalId && (
        <SubmittalPanel
          key={submittalId}
          submittalId={submittalId}
          onClose={() => void navigate({ to: '/submittals', search })}
        />
      )}
      {making && (
        <MakeSubmittal
          onClose={() => setMaking(false)}
          onMade={(id) => {
            setMaking(false)
            show(id)
          }}
        />
      )}
    </div>
  )
}

interface LogProps {
  search: SubmittalSearch
  log: ReturnType<typeof useSubmittalLog>
  openId: string | undefined
  onShow: (id: string) => void
}

function useSet() {
  const navigate = useNavigate()
  return (part: SubmittalSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
}

const NOTHING: SubmittalSearch = {
  words: undefined,
  view: undefined,
  state: undefined,
  late: undefined,
  company: undefined,
  kind: undefined,
}

function useMarked() {
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  const mark = (ids: string[], on: boolean) =>
    setMarked((old) => new Set(on ? [...old, ...ids] : [...old].filter((id) => !ids.includes(id))))
  return { marked, mark, unmark: () => setMarked(new Set()) }
}

function Log({ search, log, openId, onShow }: LogProps) {
  const { list, rows, first } = log
  const marking = useMarked()
  const set = useSet()
  return (
    <>
      {first && (
        <StateBar
          states={first.states}
          late={first.late}
          chosen={search.state}
          onlyLate={search.late === true}
          onState={(state) => set({ state })}
          onLate={(late) => set({ late: late || undefined })}
        />
      )}
      <Filters search={search} total={first?.total ?? null} companies={first?.companies ?? []} />
      <MarkedActs rows={rows.filter((row) => marking.marked.has(row.id))} onDone={marking.unmark} />
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {list.isPending ? (
        <Loading what="the submittals" />
      ) : (
        <Lines search={search} log={log} openId={openId} onShow={onShow} marking={marking} />
      )}
    </>
  )
}

const NONE =
  'There is no submittal for you yet. Leads and controllers write them down here: what must be sent in, by whom, and when it is needed on site.'

function Lines({
  search,
  log,
  openId,
  onShow,
  marking,
}: LogProps & { marking: ReturnType<typeof useMarked> }) {
  const { rows, first, total, more } = log
  const set = useSet()
  const sorted = search.sort ?? 'float'
  const toMark = first?.may_make ? { marked: marking.marked, onMark: marking.mark } : {}
  return (
    <ListTable
      label="Submittals"
      rows={rows}
      total={total}
      onNearEnd={more}
      rowId={(row) => row.id}
      columns={openId ? COLUMNS.filter((column) => NARROW.has(column.key)) : COLUMNS}
      slips={SLIPS}
      openId={openId}
      onShow={(row) => onShow(row.id)}
      {...toMark}
      sorts={[{ key: sorted, descending: search.down === true }]}
      onSort={(key) => {
        const by = SORTS.find((each) => each === key)
        if (by) set({ sort: by, down: sorted === by && !search.down ? true : undefined })
      }}
      empty={<Empty>{isNarrowed(search) ? 'No submittal is like that.' : NONE}</Empty>}
    />
  )
}

const VIEWS = [
  ['', 'all that I see'],
  ['mine', 'with me'],
  ['copied', 'where I am copied in'],
  ['company', 'of my company'],
]

interface FilterProps {
  search: SubmittalSearch
  total: number | null
  companies: readonly { id: string; code: string; name: string }[]
}

function Filters({ search, total, companies }: FilterProps) {
  const set = useSet()
  const choices = useSubmittalChoices()
  const kinds = choices.data?.kinds.map((each) => [each.code, each.words]) ?? []
  return (
    <NarrowRow
      label="Narrow the submittals"
      count={countedOnceRead(total, 'submittal')}
      onAll={isNarrowed(search) ? () => set(NOTHING) : undefined}
    >
      <NarrowTyped label="Number, title, section" value={search.words} onChange={(words) => set({ words })} />
      <NarrowChoice
        label="Whose"
        value={search.view}
        choices={VIEWS}
        onChange={(view) => set({ view: view as SubmittalSearch['view'] })}
      />
      <NarrowChoice
        label="From"
        value={search.company}
        choices={[
          ['', 'from any company'],
          ...companies.map((each) => [each.id, `${each.code} ${each.name}`]),
        ]}
        onChange={(company) => set({ company })}
      />
      <NarrowChoice
        label="Kind"
        value={search.kind}
        choices={[['', 'of any kind'], ...kinds]}
        onChange={(kind) => set({ kind })}
      />
    </NarrowRow>
  )
}
