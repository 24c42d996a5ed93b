import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { Lock } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'

import { countedOnceRead } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ListTable, type Column } from '../../ui/ListTable'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { slipsOf } from '../../ui/slips'
import { Due, When } from '../../ui/Standing'
import { Views } from '../../ui/Views'
import { LetterPanel } from './LetterPanel'
import {
  isNarrowed,
  LETTER_SORTS,
  LETTER_STATES,
  NO_FILTER,
  readLetters,
  type LetterSearch,
} from './letterSearch'
import { useBegin, useLetterChoices, useLetterList, type Line } from './useLetters'

/** Letters, RFIs, notices: every thread one sees, the latest on top, and what one has begun to write. */
export function LettersPage() {
  const { letterId } = useParams({ strict: false })
  const search = readLetters(useSearch({ strict: false }))
  const navigate = useNavigate()
  const list = useLetterList(search)
  return (
    <div className="flex h-full">
      <section aria-label="Letters" className="flex min-w-0 flex-1 flex-col">
        <Header search={search} />
        <Drafts drafts={list.first?.drafts ?? []} />
        <div className="@container shrink-0">
          <Filters search={search} list={list} />
        </div>
        <ErrorNote error={list.list.error} again={() => void list.list.refetch()} />
        {list.list.isPending ? (
          <Loading what="the letters" />
        ) : (
          <Lines search={search} list={list} openId={letterId} />
        )}
      </section>
      {letterId && (
        <LetterPanel
          key={letterId}
          letterId={letterId}
          onClose={() => void navigate({ to: '/letters', search })}
        />
      )}
    </div>
  )
}

type List = ReturnType<typeof useLetterList>

function Header({ search }: { search: LetterSearch }) {
  const navigate = useNavigate()
  return (
    <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Letters</h1>
      <Address />
      <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Views
          of="letters"
          now={readLetters({ ...search })}
          read={readLetters}
          onOpen={(kept) => void navigate({ to: '.', search: readLetters(kept) as never })}
        />
        <Write />
      </span>
    </header>
  )
}

/** Where a mail begins a thread. */
function Address() {
  const choices = useLetterChoices()
  if (!choices.data) return null
  return (
    <p className="mr-auto text-list text-second max-md:hidden">
      a mail to <span className="code text-ink">{choices.data.address}</span> begins one, too
    </p>
  )
}

/** Begins one of a kind. */
function Write() {
  const choices = useLetterChoices()
  const begin = useBegin()
  const kinds = choices.data?.kinds.filter((each) => !each.out_of_use) ?? []
  return (
    <>
      <ErrorNote error={begin.letter.error} />
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <Button look="act" busy={begin.letter.isPending || !choices.data}>
            Write …
          </Button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            className="z-30 min-w-[200px] border border-second bg-surface py-1"
          >
            {kinds.map((each) => (
              <DropdownMenu.Item
                key={each.code}
                onSelect={() => begin.letter.mutate(each.code)}
                className="flex min-h-9 cursor-pointer items-center justify-between gap-3 px-4 outline-none data-[highlighted]:bg-plum-tint"
              >
                {each.words}
                <span className="code text-note text-second">{each.code}</span>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  )
}

function Drafts({ drafts }: { drafts: readonly { id: string; number: string; subject: string }[] }) {
  if (!drafts.length) return null
  return (
    <p className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-paper px-4 py-1 text-list">
      <span className="text-second">You have begun:</span>
      {drafts.map((each) => (
        <Link
          key={each.id}
          to="/letters/write/$messageId"
          params={{ messageId: each.id }}
          className="inline-block max-w-[32ch] truncate leading-6 text-plum underline"
        >
          {each.number && <span className="code">{each.number} </span>}
          {each.subject || 'without a subject yet'}
        </Link>
      ))}
    </p>
  )
}

function useSet() {
  const navigate = useNavigate()
  return (part: LetterSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
}

const VIEWS = [
  ['', 'all that I see'],
  ['mine', 'with me'],
  ['in', 'that I am in'],
  ['company', 'begun by my company'],
]

function Filters({ search, list }: { search: LetterSearch; list: List }) {
  const set = useSet()
  const choices = useLetterChoices()
  const { first } = list
  const stateWords = LETTER_STATES.map((state) => {
    const count = first?.states.find((each) => each.state === state)?.count ?? 0
    return [state, `${state} (${count})`]
  })
  return (
    <NarrowRow
      label="Narrow the letters"
      count={countedOnceRead(first?.total ?? null, 'thread')}
      onAll={isNarrowed(search) ? () => set(NO_FILTER) : undefined}
    >
      <NarrowTyped label="Subject, text, files" value={search.words} onChange={(words) => set({ words })} />
      <NarrowChoice
        label="Whose"
        value={search.view}
        choices={VIEWS}
        onChange={(view) => set({ view: view as LetterSearch['view'] })}
      />
      <NarrowChoice
        label="Kind"
        value={search.kind}
        choices={[['', 'of any kind'], ...(choices.data?.kinds ?? []).map((each) => [each.code, each.words])]}
        onChange={(kind) => set({ kind })}
      />
      <NarrowChoice
        label="State"
        value={search.state}
        choices={[['', 'in any state'], ...stateWords]}
        onChange={(state) => set({ state: state as LetterSearch['state'] })}
      />
      <NarrowChoice
        label="From"
        value={search.company}
        choices={[
          ['', 'from any company'],
          ...(first?.companies ?? []).map((each) => [each.id, `${each.code} ${each.name}`]),
        ]}
        onChange={(company) => set({ company })}
      />
      <Button
        small
        aria-pressed={search.late === true}
        onClick={() => set({ late: search.late ? undefined : true })}
      >
        Late {first ? first.late : ''}
      </Button>
      <Button
        small
        aria-pressed={search.unread === true}
        onClick={() => set({ unread: search.unread ? undefined : true })}
      >
        Unread
      </Button>
    </NarrowRow>
  )
}

const NONE =
  'There is no letter for you yet. Write one here, or send a mail to the project: it begins a thread, and the answers find it.'

function Lines({ search, list, openId }: { search: LetterSearch; list: List; openId: string | undefined }) {
  const { rows, total, more } = list
  const navigate = useNavigate()
  const set = useSet()
  const sorted = search.sort ?? 'last'
  return (
    <ListTable
      label="Letters"
      rows={rows}
      total={total}
      onNearEnd={more}
      rowId={(row) => row.id}
      columns={openId ? COLUMNS.filter((each) => BESIDE.has(each.key)) : COLUMNS}
      slips={SLIPS}
      openId={openId}
      onShow={(row) => void navigate({ to: '/letters/$letterId', params: { letterId: row.id }, search })}
      sorts={[{ key: sorted, descending: !search.up }]}
      onSort={(key) => {
        const by = LETTER_SORTS.find((each) => each === key)
        if (by) set({ sort: by, up: sorted === by && !search.up ? true : undefined })
      }}
      empty={<Empty>{isNarrowed(search) ? 'No letter is like that.' : NONE}</Empty>}
    />
  )
}

function Unread({ row }: { row: Line }) {
  if (!row.unread) return null
  return (
    <span
      className="ml-1.5 bg-plum px-1 text-fine font-semibold text-on-plum"
      title={`${row.unread} not read yet`}
    >
      {row.unread}
      <span className="sr-only"> not read yet</span>
    </span>
  )
}

const COLUMNS: Column<Line>[] = [
  {
    key: 'number',
    head: 'Number',
    width: '142px',
    sorts: true,
    cell: (row) => <span className="code whitespace-nowrap">{row.number}</span>,
  },
  {
    key: 'subject',
    head: 'Subject',
    width: 'minmax(190px, 2fr)',
    cell: (row) => (
      <span title={row.subject} className={row.unread ? 'font-semibold' : ''}>
        {row.private && <Lock size={12} aria-label="Private" className="mr-1 inline text-second" />}
        {row.subject}
        <Unread row={row} />
      </span>
    ),
  },
  {
    key: 'from',
    head: 'From',
    width: '52px',
    cell: (row) => (
      <span title={`${row.written_by || row.began_by.name}, ${row.company_name}`}>{row.company}</span>
    ),
  },
  {
    key: 'to',
    head: 'To',
    width: 'minmax(120px, 1fr)',
    cell: (row) => <span title={row.to}>{row.to || 'the project'}</span>,
  },
  { key: 'kind', head: 'Kind', width: '80px', cell: (row) => row.kind_words },
  { key: 'state', head: 'State', width: '112px', cell: (row) => row.state },
  {
    key: 'with',
    head: 'With',
    width: '132px',
    cell: (row) => <span title={row.standing.with_whom}>{row.standing.with_whom}</span>,
  },
  { key: 'due', head: 'Due', width: '128px', sorts: true, cell: (row) => <Due standing={row.standing} /> },
  {
    key: 'open',
    head: 'Open',
    width: '58px',
    cell: (row) => row.days_open !== null && <span className="whitespace-nowrap">{row.days_open} d</span>,
  },
  { key: 'last', head: 'Last', width: '84px', sorts: true, cell: (row) => <When at={row.last_at} /> },
]
const BESIDE = new Set(['number', 'subject', 'due'])

const SLIPS = slipsOf(COLUMNS, {
  what: 'subject',
  beside: ['last'],
  below: ['number', 'with', 'due', 'state'],
})
