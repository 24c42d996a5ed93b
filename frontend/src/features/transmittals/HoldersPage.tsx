import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { hasLevel, useSeat } from '../../api/me'
import { counted, countedOnceRead } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { cellKey, HoldersGrid } from './HoldersGrid'
import { readHolders, type HoldersSearch } from './logSearch'
import { useCatchUp, useHolders, type HolderCompany, type HolderLine } from './useTransmittals'

const STATES = [
  ['', 'all documents'],
  ['behind', 'somebody is behind'],
  ['not_acknowledged', 'somebody has not acknowledged'],
  ['ahead', 'somebody has what is not released'],
  ['withdrawn', 'somebody holds what is withdrawn'],
  ['in_step', 'somebody is in step'],
  ['held', 'sent to somebody'],
  ['never', 'sent to nobody'],
]

/** Who holds which revision: documents down, companies across, against what is in force. */
export function HoldersPage() {
  const search = readHolders(useSearch({ strict: false }))
  const { list, lines, companies, total, more } = useHolders(search)
  const { project } = useSeat()
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  const toggle = (keys: readonly string[], on: boolean) => {
    const next = new Set(marked)
    for (const key of keys)
      if (on) next.add(key)
      else next.delete(key)
    setMarked(next)
  }
  const sends = hasLevel(project, 'file')
  return (
    <section aria-label="Holders" className="flex h-full min-w-0 flex-col">
      <Head />
      <Filters search={search} companies={companies} total={list.isPending ? null : total} />
      <ErrorNote error={list.error} again={() => void list.refetch()} />
      {sends && (
        <Marked
          marked={marked}
          lines={lines}
          companies={companies}
          onMark={toggle}
          onNone={() => setMarked(new Set())}
        />
      )}
      {list.isPending ? (
        <Loading what="who holds what" />
      ) : lines.length === 0 ? (
        <Empty>No document is like that.</Empty>
      ) : (
        <HoldersGrid
          lines={lines}
          companies={companies}
          total={total}
          marked={marked}
          onMark={sends ? toggle : undefined}
          onNearEnd={more}
        />
      )}
    </section>
  )
}

function Head() {
  return (
    <header className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Holders</h1>
      <Legend />
      <Link to="/transmittals" className="inline-flex min-h-6 items-center text-list text-plum underline">
        Transmittals
      </Link>
    </header>
  )
}

function Legend() {
  const signs = [
    ['C01', 'in step', ''],
    ['○ C01', 'not acknowledged', ''],
    ['C01 −2', 'behind, by two', 'bg-ochre-tint text-ochre font-semibold'],
    ['C02 ↑', 'has what is not released', 'text-slate'],
  ]
  return (
    <p className="flex flex-wrap gap-x-4 text-note text-second max-md:hidden">
      {signs.map(([sign, words, look]) => (
        <span key={words}>
          <span className={`code px-1 ${look}`}>{sign}</span> {words}
        </span>
      ))}
      <span>empty: never sent</span>
    </p>
  )
}

interface FiltersProps {
  search: HoldersSearch
  companies: readonly HolderCompany[]
  total: number | null
}

function Filters({ search, companies, total }: FiltersProps) {
  const navigate = useNavigate()
  const set = (part: HoldersSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
  const old = search.state === 'behind'
  return (
    <NarrowRow label="Narrow the holders" count={countedOnceRead(total, 'document')}>
      <NarrowTyped label="Number or title" value={search.words} onChange={(words) => set({ words })} />
      <NarrowChoice
        label="How they stand"
        value={search.state}
        choices={STATES}
        onChange={(state) => set({ state: state as HoldersSearch['state'] })}
      />
      <NarrowChoice
        label="Company"
        value={search.company}
        choices={[['', 'any company'], ...companies.map((each) => [each.id, `${each.code} ${each.name}`])]}
        onChange={(company) => set({ company })}
      />
      <Button small aria-pressed={old} onClick={() => set({ state: old ? undefined : 'behind' })}>
        Who builds from an old revision?
      </Button>
    </NarrowRow>
  )
}

interface MarkedProps {
  marked: ReadonlySet<string>
  lines: readonly HolderLine[]
  companies: readonly HolderCompany[]
  onMark: (keys: readonly string[], on: boolean) => void
  onNone: () => void
}

/** What is marked becomes drafts, one a company; what will be in them is said before. */
function Marked({ marked, lines, companies, onMark, onNone }: MarkedProps) {
  const navigate = useNavigate()
  const catchUp = useCatchUp()
  const behind = lines.flatMap((line) =>
    line.cells.flatMap((cell, at) => {
      const company = companies[at]
      return cell.state === 'behind' && company ? [cellKey(line.document_id, company.id)] : []
    }),
  )
  const of = new Set([...marked].map((key) => key.split(' ')[1]))
  const cells = [...marked].map((key) => {
    const [document_id = '', company_id = ''] = key.split(' ')
    return { document_id, company_id }
  })
  return (
    <div className="flex min-h-10 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-plum-tint px-4 py-1 text-list">
      {marked.size === 0 ? (
        <span className="text-second">
          Mark cells, or a company’s head for its column, and send each company what is in force.
        </span>
      ) : (
        <span role="status" className="font-medium">
          {counted(marked.size, 'cell')} marked, of {counted(of.size, 'company', 'companies')}
        </span>
      )}
      {behind.length > 0 && (
        <Button small onClick={() => onMark(behind, true)}>
          Mark the {behind.length} behind
        </Button>
      )}
      {marked.size > 0 && (
        <>
          <Button
            small
            look="act"
            busy={catchUp.isPending}
            onClick={() =>
              catchUp.mutate(cells, {
                onSuccess: (made) => {
                  onNone()
                  if (!made.left_out.length) void navigate({ to: '/transmittals' })
                },
              })
            }
          >
            Prepare {counted(of.size, 'transmittal')}
          </Button>
          <Button small onClick={onNone}>
            Unmark all
          </Button>
        </>
      )}
      <LeftOut made={catchUp.data} />
      <ErrorNote error={catchUp.error} />
    </div>
  )
}

/** What could not be sent, as nothing of it is in force. */
function LeftOut({ made }: { made: Schemas['CaughtUp'] | undefined }) {
  if (!made?.left_out.length) return null
  const rest = made.left_out.length - 3
  return (
    <span role="status">
      {counted(made.drafts.length, 'draft')} made. Nothing is in force of{' '}
      {made.left_out.slice(0, 3).join(', ')}
      {rest > 0 && ` and ${rest} more`}.
    </span>
  )
}
