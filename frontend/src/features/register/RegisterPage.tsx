import { useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'

import { hasLevel, useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Select } from '../../ui/Field'
import { useKeys } from '../../ui/keys'
import { ListTable, type Column } from '../../ui/ListTable'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { VerdictMark } from '../../ui/Stamp'
import { Due, When } from '../../ui/Standing'
import { Dossier } from './Dossier'
import { useOthersChanged, useRegisterList, type DocumentLine, type RegisterSearch } from './useRegister'

const COLUMNS: Column<DocumentLine>[] = [
  {
    key: 'number',
    head: 'Number',
    width: '200px',
    sorts: true,
    cell: (row) => <span className="code">{row.number}</span>,
  },
  {
    key: 'title',
    head: 'Title',
    width: 'minmax(150px, 1fr)',
    sorts: true,
    cell: (row) => <span title={row.title}>{row.title}</span>,
  },
  {
    key: 'discipline',
    head: 'Discipline',
    width: '134px',
    sorts: true,
    cell: (row) => <Discipline code={row.discipline} />,
  },
  {
    key: 'revision',
    head: 'Rev',
    width: '52px',
    sorts: true,
    cell: (row) => <span className="code font-bold">{row.revision}</span>,
  },
  { key: 'status', head: 'Status', width: '62px', sorts: true, cell: (row) => <Status code={row.status} /> },
  {
    key: 'verdict',
    head: 'Verdict',
    width: '66px',
    sorts: true,
    cell: (row) => <VerdictMark code={row.verdict} />,
  },
  {
    key: 'with_whom',
    head: 'With',
    width: '148px',
    sorts: true,
    cell: (row) => <span title={row.standing.with_whom}>{row.standing.with_whom}</span>,
  },
  { key: 'since', head: 'Since', width: '68px', cell: (row) => <When at={row.standing.since_at} /> },
  { key: 'due_on', head: 'Due', width: '118px', sorts: true, cell: (row) => <Due standing={row.standing} /> },
]

/** With the dossier open the list keeps what tells a line apart and who has it. */
const NARROW: Record<string, string> = {
  number: '190px',
  title: 'minmax(90px, 1fr)',
  revision: '48px',
  verdict: '60px',
  with_whom: 'minmax(84px, 0.7fr)',
  due_on: '118px',
}

const NARROW_COLUMNS = COLUMNS.flatMap((column) => {
  const width = NARROW[column.key]
  return width ? [{ ...column, width }] : []
})

/** The register: dense, filtered as one types, everything in the address. */
export function RegisterPage() {
  const search = useSearch({ from: '/frame/register' })
  const navigate = useNavigate()
  const client = useQueryClient()
  const { project } = useSeat()
  const list = useRegisterList(search)
  const [changed, forgetChange] = useOthersChanged()
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  const startButton = useRef<HTMLButtonElement>(null)
  useKeys({ '.': () => startButton.current?.focus() })

  const rows = useMemo(() => list.data?.pages.flatMap((page) => page.lines) ?? [], [list.data])
  const total = list.data?.pages[0]?.total ?? 0
  const change = useCallback(
    (part: Partial<RegisterSearch>) =>
      void navigate({ to: '/register', search: (old) => clean({ ...old, ...part }), replace: true }),
    [navigate],
  )
  const onNearEnd = useCallback(() => {
    if (list.hasNextPage && !list.isFetchingNextPage) void list.fetchNextPage()
  }, [list])

  const onMark = useCallback((ids: string[], on: boolean) => {
    setMarked((old) => {
      const next = new Set(old)
      for (const id of ids)
        if (on) next.add(id)
        else next.delete(id)
      return next
    })
  }, [])

  function sort(key: string) {
    const descending = search.sort === key || (!search.sort && key === 'number') ? !search.descending : false
    change({ sort: key, descending })
  }

  const chosen = rows.filter((row) => marked.has(row.id))
  const columns = search.document ? NARROW_COLUMNS : COLUMNS
  return (
    <div className="flex h-full">
      <section aria-label="Register" className="flex min-w-0 flex-1 flex-col">
        <Filters search={search} change={change} total={total} />
        <ErrorNote error={list.error} again={() => void list.refetch()} />
        {changed && (
          <button
            type="button"
            className="border-b border-line bg-slate-tint px-4 py-1 text-left text-slate"
            onClick={() => {
              forgetChange()
              void client.invalidateQueries({ queryKey: ['register'] })
            }}
          >
            Others changed the register. <span className="font-semibold underline">Show it as it is now</span>
          </button>
        )}
        {chosen.length > 0 && (
          <div className="flex items-center gap-3 border-b border-line bg-plum-tint px-4 py-1.5">
            <span role="status" className="font-medium">
              {chosen.length} marked
            </span>
            {hasLevel(project, 'file') && (
              <>
                {project.tools.includes('reviews') && (
                  <Button
                    ref={startButton}
                    small
                    look="act"
                    onClick={() =>
                      void navigate({
                        to: '/reviews/new',
                        search: { documents: chosen.map((row) => row.id).join(',') },
                      })
                    }
                  >
                    Start a review
                  </Button>
                )}
                {project.tools.includes('transmittals') && (
                  <Button
                    small
                    onClick={() =>
                      void navigate({
                        to: '/transmittals/new',
                        search: { revisions: chosen.map((row) => row.revision_id).join(',') },
                      })
                    }
                  >
                    Send out
                  </Button>
                )}
              </>
            )}
            <Button small onClick={() => setMarked(new Set())}>
              Unmark all
            </Button>
          </div>
        )}
        {list.isPending ? (
          <Loading what="the register" />
        ) : (
          <ListTable
            label="Documents"
            rows={rows}
            total={total}
            rowId={(row) => row.id}
            columns={columns}
            openId={search.document}
            onShow={(row) => change({ document: row.id })}
            onGo={(row) =>
              void navigate({ to: '/sheet/$revisionId', params: { revisionId: row.revision_id } })
            }
            marked={marked}
            onMark={onMark}
            sort={{ key: search.sort ?? 'number', descending: search.descending ?? false }}
            onSort={sort}
            onNearEnd={onNearEnd}
            empty={
              <NoLines
                search={search}
                onClear={() =>
                  change({ words: undefined, discipline: undefined, status: undefined, verdict: undefined })
                }
              />
            }
          />
        )}
      </section>
      {search.document && (
        <Dossier documentId={search.document} onClose={() => change({ document: undefined })} />
      )}
    </div>
  )
}

function clean(search: RegisterSearch): RegisterSearch {
  return Object.fromEntries(
    Object.entries(search).filter(([, value]) => value !== '' && value !== undefined && value !== false),
  )
}

function Discipline({ code }: { code: string }) {
  const { project } = useSeat()
  return (
    <span title={project.disciplines[code]}>
      <span className="code font-bold">{code}</span>{' '}
      <span className="text-second">{project.disciplines[code]}</span>
    </span>
  )
}

function Status({ code }: { code: string }) {
  const { project } = useSeat()
  return (
    <span className="code" title={project.statuses[code]}>
      {code}
    </span>
  )
}

function NoLines({ search, onClear }: { search: RegisterSearch; onClear: () => void }) {
  const filtered = search.words || search.discipline || search.status || search.verdict
  if (!filtered) return <Empty>The register is empty. Documents enter it through Intake.</Empty>
  return (
    <Empty act={<Button onClick={onClear}>Clear the filters</Button>}>No document fits these filters.</Empty>
  )
}

interface FilterProps {
  search: RegisterSearch
  change: (part: Partial<RegisterSearch>) => void
  total: number
}

function Filters({ search, change, total }: FilterProps) {
  const { project } = useSeat()
  const [words, setWords] = useState(search.words ?? '')
  const settled = useDeferredValue(words)
  useEffect(() => {
    if (settled !== (search.words ?? '')) change({ words: settled })
  }, [settled, search.words, change])

  const choices = (all: Record<string, string>, none: string) => [
    { code: '', words: none },
    ...Object.entries(all).map(([code, meaning]) => ({ code, words: `${code}  ${meaning}` })),
  ]
  const verdicts = Object.fromEntries(project.verdict_set.map((each) => [each.code, each.words]))
  return (
    <header className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-2">
      <h1 className="mr-2 text-[16px] font-semibold">Register</h1>
      <input
        type="search"
        aria-label="Filter by number or title"
        placeholder="Filter by number or title"
        value={words}
        onChange={(event) => setWords(event.target.value)}
        className="h-8 min-w-[200px] flex-1 rounded-[3px] border border-line bg-surface px-2 placeholder:text-second"
      />
      <Select
        hideLabel
        label="Discipline"
        className="w-[132px]"
        value={search.discipline ?? ''}
        onChange={(discipline) => change({ discipline })}
        choices={choices(project.disciplines, 'All disciplines')}
      />
      <Select
        hideLabel
        label="Status"
        className="w-[112px]"
        value={search.status ?? ''}
        onChange={(status) => change({ status })}
        choices={choices(project.statuses, 'Any status')}
      />
      <Select
        hideLabel
        label="Verdict"
        className="w-[112px]"
        value={search.verdict ?? ''}
        onChange={(verdict) => change({ verdict })}
        choices={choices(verdicts, 'Any verdict')}
      />
      <span role="status" className="w-[112px] text-right text-second">
        {total.toLocaleString('en-GB')} {total === 1 ? 'document' : 'documents'}
      </span>
    </header>
  )
}
