import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { countedOnceRead } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ColumnsDialog } from '../../ui/ColumnsDialog'
import { ListTable } from '../../ui/ListTable'
import type { Group, Grouping } from '../../ui/listTypes'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { TABLES_AND_PDF, TakeLog } from '../../ui/TakeLog'
import { Views } from '../../ui/Views'
import { MakeSubmittal } from './DetailsForm'
import { Feed } from './Feed'
import { CHOICES, columnsShown, SLIPS, USUAL } from './logColumns'
import { LookedInto } from './LookedInto'
import { MarkedActs } from './MarkedActs'
import { RailLegend } from './Rail'
import { StateBar } from './StateBar'
import { SubmittalPanel } from './SubmittalPanel'
import { TakeIn } from './TakeIn'
import {
  isLookedInto,
  isNarrowed,
  narrowedBy,
  readSubmittals,
  type Sort,
  type SubmittalSearch,
} from './submittalSearch'
import { useSubmittalChoices, useSubmittalLog, type Line } from './useSubmittals'

const SORTS: readonly Sort[] = ['float', 'number', 'required', 'latest', 'due', 'section']

type Form = 'new' | 'list' | 'columns' | 'feed'

/** The log of submittals: those with the least float on top, so that it is the list to chase by. */
export function SubmittalsPage() {
  const { submittalId } = useParams({ strict: false })
  const search = readSubmittals(useSearch({ strict: false }))
  const navigate = useNavigate()
  const [form, setForm] = useState<Form | null>(null)
  const log = useSubmittalLog(search)
  const show = (id: string) =>
    void navigate({ to: '/submittals/$submittalId', params: { submittalId: id }, search })
  return (
    <div className="flex h-full">
      <section aria-label="Submittals" className="flex min-w-0 flex-1 flex-col">
        <Header search={search} mayMake={log.first?.may_make === true} onForm={setForm} />
        <Log search={search} log={log} openId={submittalId} onShow={show} />
      </section>
      {submittalId && (
        <SubmittalPanel
          key={submittalId}
          submittalId={submittalId}
          onClose={() => void navigate({ to: '/submittals', search })}
        />
      )}
      {form && <Forms form={form} search={search} onClose={() => setForm(null)} onShow={show} />}
    </div>
  )
}

interface HeaderProps {
  search: SubmittalSearch
  mayMake: boolean
  onForm: (form: Form) => void
}

function Header({ search, mayMake, onForm }: HeaderProps) {
  const navigate = useNavigate()
  return (
    <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Submittals</h1>
      <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Views
          of="submittals"
          now={readSubmittals({ ...search })}
          read={readSubmittals}
          onOpen={(kept) => void navigate({ to: '.', search: readSubmittals(kept) as never })}
        />
        <Button small className="max-md:hidden" onClick={() => onForm('columns')}>
          Columns
        </Button>
        <Button small onClick={() => void navigate({ to: '/submittals/month' })}>
          Month
        </Button>
        <Button small onClick={() => void navigate({ to: '/submittals/analysis' })}>
          Analysis
        </Button>
        <Button small onClick={() => onForm('feed')}>
          Calendar
        </Button>
        <TakeLog
          address="/api/submittals/taken"
          search={{ ...narrowedBy(search), group: search.group }}
          forms={TABLES_AND_PDF}
        />
        {mayMake && (
          <>
            <Button onClick={() => void navigate({ to: '/submittals/specification' })}>
              From the specification
            </Button>
            <Button onClick={() => onForm('list')}>Take in a list</Button>
            <Button onClick={() => onForm('new')}>New submittal</Button>
          </>
        )}
      </span>
    </header>
  )
}

interface FormsProps {
  form: Form
  search: SubmittalSearch
  onClose: () => void
  onShow: (id: string) => void
}

function Forms({ form, search, onClose, onShow }: FormsProps) {
  const set = useSet()
  if (form === 'list') return <TakeIn onClose={onClose} />
  if (form === 'feed') return <Feed onClose={onClose} />
  if (form === 'columns')
    return (
      <ColumnsDialog
        search={search}
        columns={CHOICES}
        usual={USUAL}
        onClose={onClose}
        onDone={(part) => {
          onClose()
          set(part)
        }}
      />
    )
  return (
    <MakeSubmittal
      onClose={onClose}
      onMade={(id) => {
        onClose()
        onShow(id)
      }}
    />
  )
}

interface LogProps {
  search: SubmittalSearch
  log: ReturnType<typeof useSubmittalLog>
  openId: string | undefined
  onShow: (id: string) => void
}

function groupingOf(
  search: SubmittalSearch,
  groups: readonly Group[],
  set: (part: SubmittalSearch) => void,
): Grouping<Line> | undefined {
  const { group, shut = [] } = search
  if (!group) return undefined
  const onToggle = (key: string) =>
    set({ shut: shut.includes(key) ? shut.filter((each) => each !== key) : [...shut, key] })
  return { groups, shut, groupOf: (row) => row[group], onToggle }
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
  answered_by: undefined,
  waits_for: undefined,
  took: undefined,
  late_on: undefined,
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
      <div className="@container shrink-0">
        <Filters search={search} total={first?.total ?? null} companies={first?.companies ?? []} />
      </div>
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
      columns={columnsShown(search, openId !== undefined)}
      frozen={openId ? 0 : (search.frozen ?? 0)}
      grouping={groupingOf(search, first?.groups ?? [], set)}
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

const GROUPS = [
  ['', 'no groups'],
  ['company', 'by company'],
  ['section', 'by section'],
  ['kind', 'by kind'],
  ['state', 'by state'],
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
      <NarrowChoice
        label="Groups"
        value={search.group}
        choices={GROUPS}
        onChange={(group) => set({ group: group as SubmittalSearch['group'], shut: undefined })}
      />
      {isLookedInto(search) && <LookedInto search={search} onTakeAway={set} />}
      <span className="hidden self-center @6xl:block">
        <RailLegend />
      </span>
    </NarrowRow>
  )
}
