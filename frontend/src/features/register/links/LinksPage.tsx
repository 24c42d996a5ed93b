import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Empty, ErrorNote, Loading } from '../../../ui/Notes'
import { When } from '../../../ui/Standing'
import { RegisterNav } from '../RegisterNav'
import { ThingLink } from '../../../ui/ThingLink'

type Line = Schemas['LinkLine']

const ALLOWS: Record<string, string> = {
  look: 'look',
  download: 'download',
  comment: 'talk',
  acknowledge: 'acknowledge',
  send: 'send in',
  answer: 'answer',
  respond: 'respond',
}

/** The links that were given, with their visits: one's own, or all of the project for those who run it. */
export function LinksPage() {
  const { project } = useSeat()
  const [own, setOwn] = useState(!project.runs)
  const links = useQuery({
    queryKey: ['given-links', project.id, own],
    queryFn: () => unwrap(api.GET('/api/links', { params: { query: { project_id: project.id, own } } })),
  })
  return (
    <div className="flex h-full flex-col">
      <RegisterNav>
        {project.runs && (
          <div role="group" aria-label="Whose links" className="flex gap-2">
            <Button small aria-pressed={!own} onClick={() => setOwn(false)}>
              All of the project
            </Button>
            <Button small aria-pressed={own} onClick={() => setOwn(true)}>
              Mine
            </Button>
          </div>
        )}
      </RegisterNav>
      <ErrorNote error={links.error} again={() => void links.refetch()} />
      {!links.data && !links.error && <Loading what="the links" />}
      {links.data &&
        (links.data.links.length ? (
          <Table lines={links.data.links} />
        ) : (
          <Empty>No links have been given{own ? ' by you' : ''} yet.</Empty>
        ))}
    </div>
  )
}

function Table({ lines }: { lines: Line[] }) {
  return (
    <div data-wide className="relative min-h-0 flex-1 overflow-auto px-4 py-3">
      <table className="w-full min-w-[900px] text-list">
        <thead className="border-b border-second/40 text-left text-note text-second">
          <tr>
            <th className="py-1 font-semibold">To what</th>
            <th className="font-semibold">For</th>
            <th className="font-semibold">Allows</th>
            <th className="font-semibold">Given</th>
            <th className="font-semibold">Until</th>
            <th className="font-semibold">Visits</th>
            <th className="font-semibold">State</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((each) => (
            <Row key={each.id} line={each} />
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Row({ line }: { line: Line }) {
  return (
    <tr className="border-b border-line/60 align-top [&>td]:py-1.5">
      <td className="max-w-[280px] pr-3">
        <span className="text-second">{line.thing.kind_words}</span> <ThingLink thing={line.thing} />
      </td>
      <td className="pr-3">
        {line.to ? (
          <>
            {line.to.name} <span className="code text-second">{line.to.company}</span>
          </>
        ) : (
          line.for_words
        )}
        {line.has_password && <span className="block text-second">with a password</span>}
      </td>
      <td className="pr-3">{line.allows.map((each) => ALLOWS[each] ?? each).join(', ')}</td>
      <td className="pr-3">
        <When at={line.made_at} time />
        <span className="block text-second">{line.made_by.name}</span>
      </td>
      <td className="pr-3">
        {line.ends_at ? <When at={line.ends_at} time /> : <span className="text-second">no end</span>}
      </td>
      <td className="pr-3">
        <Visits line={line} />
      </td>
      <td>
        <Withdraw line={line} />
      </td>
    </tr>
  )
}

function Visits({ line }: { line: Line }) {
  if (!line.opened) return <span className="text-second">none</span>
  return (
    <details>
      <summary className="cursor-pointer">
        {line.opened}
        {line.most_visits && ` of ${line.most_visits}`}
      </summary>
      <ul>
        {line.visits.map((each) => (
          <li key={each.at + each.name}>
            {each.name}, <When at={each.at} time />
          </li>
        ))}
      </ul>
    </details>
  )
}

function Withdraw({ line }: { line: Line }) {
  const client = useQueryClient()
  const [asked, setAsked] = useState(false)
  const withdraw = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/links/{link_id}/withdraw', { params: { path: { link_id: line.id } } })),
    onSettled: () => fetchAnew(client, ['given-links']),
  })
  if (!line.may_withdraw) return <span className="text-brick">withdrawn</span>
  return (
    <>
      {line.closed && <p className="mb-1 text-brick">{line.closed}</p>}
      {asked ? (
        <span className="flex gap-2">
          <Button small look="stop" busy={withdraw.isPending} onClick={() => withdraw.mutate()}>
            Withdraw it for good
          </Button>
          <Button small onClick={() => setAsked(false)}>
            Keep it
          </Button>
        </span>
      ) : (
        <Button small onClick={() => setAsked(true)}>
          Withdraw …
        </Button>
      )}
      <ErrorNote error={withdraw.error} />
    </>
  )
}
