import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { EndCheckOut } from './dossier/EndCheckOut'
import { RegisterNav } from './RegisterNav'

type Line = Schemas['CheckOutLine']

/** All that is checked out: by whom, since when, what for. */
export function OutPage() {
  const { project } = useSeat()
  const [ending, setEnding] = useState<Line | null>(null)
  const lines = useQuery({
    queryKey: ['check-outs', project.id],
    queryFn: () => unwrap(api.GET('/api/check-outs', { params: { query: { project_id: project.id } } })),
  })
  const all = lines.data ?? []
  return (
    <section aria-label="Checked out" className="flex h-full flex-col">
      <RegisterNav>
        <span role="status" className="text-second">
          {all.length} checked out
        </span>
      </RegisterNav>
      <ErrorNote error={lines.error} again={() => void lines.refetch()} />
      {lines.isPending && <Loading what="the check-outs" />}
      {lines.data?.length === 0 && (
        <Empty>
          Nobody has a document checked out. In a document’s dossier, More, Check out keeps others from filing
          a revision while you work on it.
        </Empty>
      )}
      {all.length > 0 && (
        <div data-wide className="relative min-h-0 flex-1 overflow-auto border-t border-line">
          <table className="w-full table-fixed text-list">
            <thead className="sticky top-0 bg-surface text-left text-note text-second">
              <tr className="h-8 border-b border-second/40">
                <th className="w-[210px] px-4 font-semibold">Number</th>
                <th className="px-2 font-semibold">Title</th>
                <th className="w-[56px] px-2 font-semibold">Rev</th>
                <th className="w-[190px] px-2 font-semibold">With</th>
                <th className="w-[110px] px-2 font-semibold">Since</th>
                <th className="px-2 font-semibold">What for</th>
                <th className="w-[150px] px-2 font-semibold">Act</th>
              </tr>
            </thead>
            <tbody>
              {all.map((line) => (
                <tr key={line.document_id} className="h-9 border-b border-line/70">
                  <td className="px-4">
                    <Link
                      to="/register"
                      search={{ document: line.document_id }}
                      className="code text-plum underline"
                    >
                      {line.number}
                    </Link>
                  </td>
                  <td className="truncate px-2">{line.title}</td>
                  <td className="code px-2 font-bold">{line.revision}</td>
                  <td className="truncate px-2">
                    {line.by.name}, {line.by.company}
                  </td>
                  <td className="px-2">
                    <When at={line.since} time />
                  </td>
                  <td className="truncate px-2" title={line.note}>
                    {line.note}
                  </td>
                  <td className="px-2 text-right">
                    {line.may_end && (
                      <Button small look={line.mine ? 'quiet' : 'stop'} onClick={() => setEnding(line)}>
                        {line.mine ? 'Put back' : 'Break it'}
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {ending && <EndCheckOut line={ending} onClose={() => setEnding(null)} />}
    </section>
  )
}
