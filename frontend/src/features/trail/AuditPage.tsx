import { useInfiniteQuery } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { Download, Stamp } from 'lucide-react'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Select } from '../../ui/Field'
import { ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { Details } from '../../ui/Trail'
import { SealDialog } from './SealDialog'
import { DateField } from '../../ui/DateField'

export interface AuditSearch {
  person?: string | undefined
  company?: string | undefined
  object?: string | undefined
  kind?: string | undefined
  from?: string | undefined
  until?: string | undefined
}

/** What one may see of the project's log, newest first; those who see all of it also see the tree's size and root. */
export function AuditPage() {
  const { project } = useSeat()
  const navigate = useNavigate()
  const [sealing, setSealing] = useState(false)
  const search = useSearch({ from: '/frame/audit' })
  const query = {
    project_id: project.id,
    person_id: search.person ?? '',
    company: search.company ?? '',
    object_kind: search.object ?? '',
    kind: search.kind ?? '',
    from_on: search.from ?? null,
    until_on: search.until ?? null,
  }
  const log = useInfiniteQuery({
    queryKey: ['trail', 'log', query],
    queryFn: ({ pageParam }) => {
      const given = Object.fromEntries(
        Object.entries({ ...query, before: pageParam }).filter(([, value]) => value !== null && value !== ''),
      )
      return unwrap(api.GET('/api/audit', { params: { query: given as typeof query } }))
    },
    initialPageParam: null as string | null,
    getNextPageParam: (page) => (page.more ? (page.entries.at(-1)?.leaf ?? null) : null),
  })
  const first = log.data?.pages[0]
  const entries = log.data?.pages.flatMap((page) => page.entries) ?? []
  const change = (part: AuditSearch) =>
    void navigate({ to: '/audit', search: (old: AuditSearch) => ({ ...old, ...part }), replace: true })
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-end gap-3 border-b border-line px-4 py-2">
        <h1 className="mr-2 self-center text-head font-semibold">Audit</h1>
        <Filters search={search} change={change} page={first} />
        <Button
          onClick={() =>
            download(
              '/api/audit/export',
              Object.fromEntries(
                Object.entries(query).flatMap(([key, value]) => (value ? [[key, value]] : [])),
              ),
            )
          }
        >
          <Download size={14} aria-hidden /> CSV
        </Button>
        {first && first.size !== null && (
          <div className="ml-auto flex items-center gap-3">
            <p className="text-right text-note text-second">
              {first.size.toLocaleString('en-GB')} entries
              <br />
              root{' '}
              <span className="code text-ink" title={first.root}>
                {first.root.slice(0, 10)}…
              </span>
            </p>
            <Button onClick={() => setSealing(true)}>
              <Stamp size={14} aria-hidden /> Seal
            </Button>
            {sealing && <SealDialog onClose={() => setSealing(false)} />}
          </div>
        )}
      </header>
      <ErrorNote error={log.error} again={() => void log.refetch()} />
      {log.isPending && <Loading what="the log" />}
      {log.data && (
        // The scrolling region takes the focus, so that the keyboard can scroll it.
        <div
          data-wide
          className="relative min-h-0 flex-1 overflow-auto"
          // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
          tabIndex={0}
          role="region"
          aria-label="Entries"
        >
          <table className="w-full table-fixed text-list">
            <thead className="sticky top-0 z-10 bg-surface text-left text-note text-second">
              <tr className="border-b border-second/40">
                <th className="w-[62px] px-3 py-1.5 text-right font-semibold">Proof</th>
                <th className="w-[112px] px-2 font-semibold">When</th>
                <th className="w-[180px] px-2 font-semibold">Who</th>
                <th className="w-[170px] px-2 font-semibold">Did what</th>
                <th className="w-[240px] px-2 font-semibold">On what</th>
                <th className="px-2 font-semibold">Before and after</th>
              </tr>
            </thead>
            <tbody>
              {entries.map((entry) => (
                <tr key={entry.leaf} className="border-b border-line/60 align-top">
                  <td className="px-1 py-1 text-right">
                    <button
                      type="button"
                      title="A proof of this entry, as a file that anybody can check"
                      aria-label={`Proof of the entry ${entry.seq ?? ''} ${entry.words} ${entry.about}`}
                      className="code min-h-6 px-2 text-second underline decoration-line underline-offset-2 hover:text-plum hover:decoration-plum"
                      onClick={() =>
                        download('/api/audit/proof', { project_id: project.id, leaf: entry.leaf })
                      }
                    >
                      {entry.seq ?? 'proof'}
                    </button>
                  </td>
                  <td className="px-2 py-1.5">
                    <When at={entry.at} time />
                  </td>
                  <td className="px-2 py-1.5" title={entry.came_from}>
                    {entry.who} <span className="code text-second">{entry.company}</span>
                  </td>
                  <td className="px-2 py-1.5">{entry.words}</td>
                  <td className="truncate px-2 py-1.5" title={entry.about}>
                    {entry.about}
                  </td>
                  <td className="px-2 py-1.5">
                    <Details entry={entry} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {entries.length === 0 && <p className="px-4 py-6 text-second">No entry fits these filters.</p>}
          {log.hasNextPage && (
            <div className="p-3">
              <Button busy={log.isFetchingNextPage} onClick={() => void log.fetchNextPage()}>
                Show older entries
              </Button>
            </div>
          )}
        </div>
      )}
    </div>
  )
}

interface FilterProps {
  search: AuditSearch
  change: (part: AuditSearch) => void
  page: Schemas['TrailPage'] | undefined
}

function Filters({ search, change, page: first }: FilterProps) {
  const any = (words: string, choices: { code: string; words: string }[] = []) => [
    { code: '', words },
    ...choices,
  ]
  return (
    <>
      <Select
        label="Person"
        className="w-[140px]"
        value={search.person ?? ''}
        onChange={(person) => change({ person: person || undefined })}
        choices={any('Everybody', first?.people)}
      />
      <Select
        label="Company"
        className="w-[130px]"
        value={search.company ?? ''}
        onChange={(company) => change({ company: company || undefined })}
        choices={any('Every company', first?.companies)}
      />
      <Select
        label="Object"
        className="w-[116px]"
        value={search.object ?? ''}
        onChange={(object) => change({ object: object || undefined })}
        choices={any('Everything', first?.object_kinds)}
      />
      <Select
        label="Act"
        className="w-[150px]"
        value={search.kind ?? ''}
        onChange={(kind) => change({ kind: kind || undefined })}
        choices={any('Every act', first?.kinds)}
      />
      <DateField
        keep="passing"
        label="From"
        className="w-[140px]"
        value={search.from ?? ''}
        onChange={(day) => change({ from: day || undefined })}
      />
      <DateField
        keep="passing"
        label="Until"
        className="w-[140px]"
        value={search.until ?? ''}
        onChange={(day) => change({ until: day || undefined })}
      />
    </>
  )
}
