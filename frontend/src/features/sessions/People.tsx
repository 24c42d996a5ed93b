import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import type { Session } from '../../api/session'
import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { ShareDialog } from '../../ui/ShareDialog'
import { OwnTime } from '../../ui/Standing'
import { NOBODY, PartyFields, partiesOf } from './PartyFields'
import { useSessionActs } from './useSessions'

const MAY = { look: 'may look', comment: 'may answer', mark: 'may mark' } as const

/** Who is invited to what, and who came when. */
export function People({ session }: { session: Session }) {
  const { me } = useSeat()
  const acts = useSessionActs(session.line.id)
  const changes = session.may.includes('change') && !me.looker
  const takeOut = (id: string) =>
    acts.parties.mutate({ version: session.version, invited: [], taken_out: [id] })
  return (
    <div className="flex flex-col gap-4">
      <section aria-label="Invited">
        <h3 className="mb-1 text-body font-semibold">Invited</h3>
        {session.parties.length === 0 && <p className="text-second">Nobody yet.</p>}
        <ul className="text-list">
          {session.parties.map((party) => (
            <li
              key={`${party.kind} ${party.id}`}
              className="flex items-center gap-2 border-b border-line/70 py-1"
            >
              <span className="min-w-0 flex-1 truncate">
                {party.name} <span className="code text-note">{party.company}</span>
                {party.kind === 'company' && <span className="text-second">, all of them</span>}
              </span>
              <span className="text-second">{MAY[party.may]}</span>
              {changes && (
                <Button
                  small
                  aria-label={`Take out ${party.name}`}
                  busy={acts.parties.isPending}
                  onClick={() => takeOut(party.id)}
                >
                  Take out
                </Button>
              )}
            </li>
          ))}
        </ul>
        <ErrorNote error={acts.parties.error} />
        {changes && <Invite session={session} />}
        {session.hosts && session.line.state !== 'closed' && <Guests session={session} />}
      </section>
      <Visits session={session} />
    </div>
  )
}

function Invite({ session }: { session: Session }) {
  const { project } = useSeat()
  const acts = useSessionActs(session.line.id)
  const [chosen, setChosen] = useState(NOBODY)
  const parties = partiesOf(chosen)
  const body = {
    project_id: project.id,
    opens_now: false,
    revisions: session.sheets.filter((each) => !each.out_why).map((each) => each.revision_id),
    parties,
  }
  const check = useQuery({
    queryKey: ['session-check', project.id, body],
    queryFn: () => unwrap(api.POST('/api/sessions/check', { body })),
    enabled: parties.length > 0,
  })
  const send = useMutation({
    mutationFn: () => acts.parties.mutateAsync({ version: session.version, invited: parties, taken_out: [] }),
    onSuccess: () => setChosen(NOBODY),
  })
  return (
    <form
      className="mt-3 flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (parties.length) send.mutate()
      }}
    >
      <PartyFields
        chosen={chosen}
        onChange={setChosen}
        without={session.parties.map((each) => `${each.kind} ${each.id}`)}
      />
      {check.data?.widened && (
        <p className="border-l-4 border-ochre bg-ochre-tint px-3 py-2 text-ochre">{check.data.widened}</p>
      )}
      <ErrorNote error={send.error} />
      <Button
        type="submit"
        className="self-start"
        busy={send.isPending}
        why={!parties.length && 'Name somebody first.'}
      >
        Invite them
      </Button>
    </form>
  )
}

/** People without account come by a link. */
function Guests({ session }: { session: Session }) {
  const [giving, setGiving] = useState(false)
  const { line } = session
  return (
    <div className="mt-4 flex flex-wrap items-center gap-2 border-t border-line pt-3">
      <p className="min-w-0 flex-1 text-second">Somebody without an account comes by a link, as a guest.</p>
      <Button onClick={() => setGiving(true)}>Give a link …</Button>
      {giving && (
        <ShareDialog
          kind="session"
          target={line.id}
          words={`the session ${line.number} ${line.name}`}
          onClose={() => setGiving(false)}
        />
      )}
    </div>
  )
}

function Visits({ session }: { session: Session }) {
  if (!session.visits.length) return null
  return (
    <section aria-label="Who was there">
      <h3 className="mb-1 text-body font-semibold">Who was there</h3>
      <ul className="text-list">
        {session.visits.map((visit) => (
          <li
            key={`${visit.name} ${visit.came_at}`}
            className="flex flex-wrap justify-between gap-x-3 border-b border-line/70 py-1"
          >
            <span>
              {visit.name}, <span className={visit.guest ? '' : 'code text-note'}>{visit.company}</span>
            </span>
            <span className="text-second">
              came <OwnTime at={visit.came_at} />, last seen <OwnTime at={visit.seen_at} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
