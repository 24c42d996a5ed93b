import { useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { Columns3, LayoutGrid, Rows3 } from 'lucide-react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'

import { useSeat } from '../../api/me'
import { countedOnceRead } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { askChosen } from '../../ui/chosen'
import { rememberSheets } from '../../ui/sheetList'
import { useKeys } from '../../ui/keys'
import { ListTable, type Group, type Grouping } from '../../ui/ListTable'
import type { Tail } from '../../ui/listTypes'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { listColumns, slipsFor } from './cells'
import { ColumnsDialog } from '../../ui/ColumnsDialog'
import { Dossier } from './dossier/Dossier'
import { FilterBar } from './FilterBar'
import { ListsMade } from './ListsMade'
import { MarkedBar } from './MarkedBar'
import { Pictures } from './Pictures'
import { RegisterNav } from './RegisterNav'
import { asked, clean, readSearch, sortedBy, viewOf, type RegisterSearch } from './registerSearch'
import { TakeAway } from './dossier/TakeAway'
import {
  useColumns,
  useOthersChanged,
  useRegisterList,
  useRegisterTail,
  type DocumentChange,
  type DocumentLine,
} from './useRegister'
import { Views } from '../../ui/Views'
import { useChangeMany } from './useChangeMany'
import { useMarkedLines } from './markedLines'

const NONE: never[] = []

/** What the list shows: its lines so far, its columns. */
function useShown(search: RegisterSearch) {
  const list = useRegisterList(search)
  const known = useColumns()
  const rows = useMemo(() => list.data?.pages.flatMap((page) => page.lines) ?? [], [list.data])
  useEffect(() => {
    const sheets = rows.map((line) => ({
      documentId: line.id,
      revisionId: line.revision_id,
      number: line.number,
    }))
    if (sheets.length) rememberSheets(sheets)
  }, [rows])
  const first = list.data?.pages[0]
  const all = known.data?.columns ?? NONE
  const usual = known.data?.usual ?? NONE
  const frozen = search.frozen ?? 0
  const narrow = Boolean(search.document)
  const columns = useMemo(
    () => listColumns(all, usual, search.columns, frozen, narrow),
    [all, usual, search.columns, frozen, narrow],
  )
  const slips = useMemo(() => slipsFor(all), [all])
  return { list, known, rows, first, total: first?.total ?? 0, all, usual, columns, slips, frozen }
}

/** The register: dense, filtered as one types, everything in the address. */
export function RegisterPage() {
  const search = useSearch({ from: '/frame/register' })
  const navigate = useNavigate()
  const client = useQueryClient()
  const { list, known, rows, first, total, all, usual, columns, slips, frozen } = useShown(search)
  const [changed, forgetChange] = useOthersChanged()
  const marking = useMarking(rows, search)
  const [choosing, setChoosing] = useState(false)
  const [made, setMade] = useState<readonly string[]>([])
  const [done, setDone] = useState<{ undo: DocumentChange[]; words: string } | null>(null)
  const firstAct = useRef<HTMLButtonElement>(null)
  useKeys({ '.': ['the acts for what is marked', () => firstAct.current?.focus()] })

  const change = useCallback(
    (part: Partial<RegisterSearch>) =>
      void navigate({ to: '/register', search: (old) => clean({ ...old, ...part }), replace: true }),
    [navigate],
  )
  const onNearEnd = useCallback(() => {
    if (list.hasNextPage && !list.isFetchingNextPage) void list.fetchNextPage()
  }, [list])

  const tail = useTail(search)
  const grouping = groupingOf(search, first?.groups ?? NONE, change)
  const chosen = [...marking.marked.values()]
  const showing = {
    rows,
    openId: search.document,
    marked: marking.marked,
    onMark: marking.onMark,
    onNearEnd,
    onShow: (row: (typeof rows)[number]) => change({ document: row.id }),
    onGo: (row: (typeof rows)[number]) =>
      void navigate({ to: '/sheet/$revisionId', params: { revisionId: row.revision_id } }),
  }
  const widen = (key: string, px: number) =>
    change({
      columns: columns.map((column) => [column.key, column.key === key ? px : fixedPx(column.width)]),
    })

  return (
    <div className="flex h-full">
      <section aria-label="Register" className="@container flex min-w-0 flex-1 flex-col">
        <Tools
          search={search}
          change={change}
          total={first ? total : null}
          columns={(search.columns ?? usual.map((key) => [key, 0] as const)).map(([key]) => key)}
          onOpen={(view) => void navigate({ to: '/register', search: view })}
          onColumns={() => setChoosing(true)}
          onMade={(id) => setMade([...made, id])}
        />
        <ListsMade ids={made} />
        <FilterBar search={search} change={change} columns={all} words={first?.filter_words ?? NONE} />
        <ErrorNote error={list.error ?? known.error} again={() => void list.refetch()} />
        {list.error && <DamagedView onUsual={() => void navigate({ to: '/register', search: {} })} />}
        {changed && (
          <OthersChanged
            onShow={() => {
              forgetChange()
              void client.invalidateQueries({ queryKey: ['register'] })
            }}
          />
        )}
        {done && <UndoLine key={done.words + done.undo.length} done={done} onGone={() => setDone(null)} />}
        {chosen.length > 0 && (
          <MarkedBar
            lines={chosen}
            columns={all}
            first={firstAct}
            total={total}
            onAll={marking.markAll}
            onUnmark={marking.forget}
            onChanged={(undo, words) => {
              marking.know(undo)
              setDone({ undo, words })
            }}
          />
        )}
        {list.isPending || known.isPending ? (
          <Loading what="the register" />
        ) : search.look === 'pictures' && rows.length > 0 ? (
          <Pictures {...showing} />
        ) : (
          <ListTable
            label="Documents"
            {...showing}
            total={total}
            tail={tail}
            rowId={idOf}
            columns={columns}
            slips={slips}
            frozen={frozen}
            grouping={grouping}
            sorts={sortsOf(search)}
            onSort={(key, more) => change({ sorts: sortedBy(search.sorts, key, more) })}
            onWidth={widen}
            empty={
              <NoLines search={search} onClear={() => change({ words: undefined, filters: undefined })} />
            }
          />
        )}
      </section>
      {search.document && (
        <Dossier
          documentId={search.document}
          tab={search.tab}
          onClose={() => change({ document: undefined, tab: undefined })}
        />
      )}
      {choosing && known.data && (
        <ColumnsDialog
          search={search}
          columns={all}
          usual={usual}
          onClose={() => setChoosing(false)}
          onDone={(part) => {
            setChoosing(false)
            change(part)
          }}
        />
      )}
    </div>
  )
}

const idOf = (row: DocumentLine) => row.id

/** The last lines, once somebody goes to the end of a list that is not all here. */
function useTail(search: RegisterSearch): Tail<DocumentLine> {
  const of = JSON.stringify(asked(search))
  const [wanted, setWanted] = useState('')
  const { tail, rows } = useRegisterTail(search, wanted === of)
  const onNearStart = useCallback(() => {
    if (tail.hasNextPage && !tail.isFetchingNextPage) void tail.fetchNextPage()
  }, [tail])
  const shown = wanted === of ? rows : NONE
  return useMemo(() => ({ rows: shown, onEnd: () => setWanted(of), onNearStart }), [shown, of, onNearStart])
}

/** Which lines are marked; all of the list, also those that are not here yet. */
function useMarking(rows: readonly DocumentLine[], search: RegisterSearch) {
  const { project } = useSeat()
  const { marked, mark, know, forget } = useMarkedLines()
  const onMark = useCallback(
    (ids: readonly string[], on: boolean) => {
      const wanted = new Set(ids)
      mark(
        rows.filter((row) => wanted.has(row.id)),
        on,
      )
    },
    [rows, mark],
  )
  const { words, filters } = asked(search)
  const markAll = useCallback(
    () => askChosen(project.id, { view: { words, filters } }).then((all) => mark(all.lines, true)),
    [project.id, words, filters, mark],
  )
  return { marked, onMark, markAll, know, forget }
}

function groupingOf(
  search: RegisterSearch,
  groups: readonly Group[],
  change: (part: Partial<RegisterSearch>) => void,
): Grouping<DocumentLine> | undefined {
  if (!search.group) return undefined
  const shut = search.shut ?? NONE
  const onToggle = (key: string) =>
    change({ shut: shut.includes(key) ? shut.filter((each) => each !== key) : [...shut, key] })
  return { groups, shut, groupOf: (row) => row.group, onToggle }
}

function sortsOf(search: RegisterSearch) {
  const sorts = search.sorts ?? [['number', 'up']]
  return sorts.map(([key = '', order]) => ({ key, descending: order === 'down' }))
}

interface ToolsProps {
  search: RegisterSearch
  change: (part: Partial<RegisterSearch>) => void
  total: number | null
  columns: readonly string[]
  onOpen: (view: RegisterSearch) => void
  onColumns: () => void
  onMade: (id: string) => void
}

/** What can be done with the list as a whole. */
function Tools({ search, change, total, columns, onOpen, onColumns, onMade }: ToolsProps) {
  const pictures = search.look === 'pictures'
  const other = pictures ? 'Show as a list' : 'Show as pictures'
  return (
    <RegisterNav>
      <span role="status" className="mr-1 text-second">
        {countedOnceRead(total, 'document')}
      </span>
      <Views
        of="register"
        now={viewOf(search)}
        read={(kept) => viewOf(readSearch(kept))}
        onOpen={(kept) => onOpen(readSearch(kept))}
      />
      <Button onClick={onColumns} aria-label="Columns" title="Columns">
        <Columns3 size={14} aria-hidden /> <span className="hidden @4xl:inline">Columns</span>
      </Button>
      <Button
        aria-pressed={pictures}
        aria-label={other}
        title={other}
        onClick={() => change({ look: pictures ? undefined : 'pictures' })}
      >
        {pictures ? <Rows3 size={15} aria-hidden /> : <LayoutGrid size={15} aria-hidden />}
      </Button>
      <TakeAway search={search} columns={columns} total={total ?? 0} onMade={onMade} />
    </RegisterNav>
  )
}

/** A track with a fixed width as px; 0, the usual one, for those that give way. */
function fixedPx(width: string): number {
  return /^\d+px$/.test(width) ? Number.parseInt(width) : 0
}

function UndoLine({ done, onGone }: { done: { undo: DocumentChange[]; words: string }; onGone: () => void }) {
  const back = useChangeMany()
  return (
    <div role="status" className="flex items-center gap-3 border-y border-line bg-spruce-tint px-4 py-1">
      <span>{done.words}</span>
      <Button
        small
        busy={back.done !== null}
        onClick={() => void back.change(done.undo).then(({ failed }) => !failed && onGone())}
      >
        {back.done ? `${back.done.count.toLocaleString('en-GB')} taken back …` : 'Undo'}
      </Button>
      <Button small onClick={onGone}>
        Fine
      </Button>
      {back.error !== null && <ErrorNote error={back.error} />}
    </div>
  )
}

function OthersChanged({ onShow }: { onShow: () => void }) {
  return (
    <button
      type="button"
      className="border-y border-line bg-slate-tint px-4 py-1 text-left text-slate"
      onClick={onShow}
    >
      Others changed the register. <span className="font-semibold underline">Show it as it is now</span>
    </button>
  )
}

function DamagedView({ onUsual }: { onUsual: () => void }) {
  return (
    <div className="px-4 py-3">
      <Button onClick={onUsual}>Show the usual list</Button>
    </div>
  )
}

function NoLines({ search, onClear }: { search: RegisterSearch; onClear: () => void }) {
  const { words, filters } = viewOf(search)
  if (!words && !filters) return <Empty>The register is empty. Documents enter it through Intake.</Empty>
  return (
    <Empty act={<Button onClick={onClear}>Clear the filters</Button>}>No document fits these filters.</Empty>
  )
}
