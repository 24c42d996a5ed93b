import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useLookedAt } from '../../api/lookedAt'
import { hasLevel, useSeat } from '../../api/me'
import { bytesText } from '../../domain/bytes'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { idsForAddress } from '../../ui/chosen'
import { GivenUpNotes } from '../../ui/GivenUp'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Panel } from '../../ui/Panel'
import { StandingWord } from '../../ui/RevisionStanding'
import { VerdictMark } from '../../ui/Stamp'
import { Day, When } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { Talk, useTalk } from '../../ui/Talk'
import { Timeline } from '../../ui/Trail'
import { Following } from '../../ui/Following'
import { LettersAbout } from '../../ui/LettersAbout'
import { LinkedMarks } from '../../ui/LinkedMarks'
import { SheetLink } from '../../ui/SheetLink'
import { AlongWords } from './GoesAlong'
import { Recipients } from './Recipients'
import { useChase } from './useTransmittals'
import { VoidDialog } from './VoidDialog'

type Transmittal = Schemas['Transmittal']

/** One transmittal: what went, to whom, and when each thing happened. */
export function TransmittalPanel({ transmittalId, onClose }: { transmittalId: string; onClose: () => void }) {
  const client = useQueryClient()
  const path = { params: { path: { transmittal_id: transmittalId } } }
  const found = useQuery({
    queryKey: ['transmittal', transmittalId],
    queryFn: () => unwrap(api.GET('/api/transmittals/{transmittal_id}', path)),
  })
  const acknowledge = useMutation({
    mutationFn: () => unwrap(api.POST('/api/transmittals/{transmittal_id}/acknowledge', path)),
    onSettled: () => client.invalidateQueries(),
  })
  useLookedAt('transmittal', found.data?.line.id)
  const talk = useTalk('transmittal', transmittalId)
  const { tab } = useSearch({ strict: false })
  if (!found.data)
    return (
      <Panel label="Transmittal" onClose={onClose} width={620}>
        {found.error ? <ErrorNote error={found.error} /> : <Loading what="the transmittal" />}
      </Panel>
    )
  const { line, company } = found.data
  return (
    <Panel label="Transmittal" onClose={onClose} width={620}>
      <header className="px-4 pt-3 pr-10 pb-2">
        <p className="text-list text-second">
          {company}, sent by {line.sent_by.name} <When at={line.sent_at} time />
        </p>
        <h2 className="text-head font-semibold">
          <span className="code">{line.number}</span> · {line.purpose}
        </h2>
      </header>
      {found.data.may_acknowledge && (
        <div className="mx-4 mb-2 flex items-center justify-between gap-3 bg-plum-tint px-3 py-2">
          <p>It was sent to you. Acknowledge that you have it.</p>
          <Button look="act" busy={acknowledge.isPending} onClick={() => acknowledge.mutate()}>
            Acknowledge
          </Button>
        </div>
      )}
      <ErrorNote error={acknowledge.error} />
      <Tabs
        label="Transmittal"
        asked={tab}
        tabs={[
          { key: 'now', words: 'Now', content: <Now transmittal={found.data} /> },
          {
            key: 'talk',
            words: 'Talk',
            count: talk.data?.said.length ?? 0,
            content: <Talk kind="transmittal" target={transmittalId} words="this transmittal" />,
          },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={transmittalId} /> },
        ]}
      />
    </Panel>
  )
}

function Now({ transmittal }: { transmittal: Transmittal }) {
  const { line, documents } = transmittal
  return (
    <div className="flex flex-col gap-4">
      {transmittal.note && (
        <p className="border-l-2 border-line pl-3 text-read whitespace-pre-line">“{transmittal.note}”</p>
      )}
      <p className="text-second">
        {line.answer_wanted_on ? (
          <>
            An answer is wanted by <Day on={line.answer_wanted_on} />.
          </>
        ) : (
          'No answer is asked for.'
        )}{' '}
        {transmittal.by_itself && 'The distribution matrix sent it by itself. '}
        {transmittal.attached && 'The files were attached to the mails. '}
        {transmittal.view_only && 'It was sent to be looked at, not downloaded. '}
        {transmittal.expires_on && (
          <>
            Its links work until the end of <Day on={transmittal.expires_on} />.{' '}
          </>
        )}
        {transmittal.review_id && (
          <>
            From{' '}
            <Link
              to="/reviews/$reviewId"
              params={{ reviewId: transmittal.review_id }}
              className="code text-plum underline"
            >
              {transmittal.review_number}
            </Link>
            .
          </>
        )}
      </p>
      <Void transmittal={transmittal} />
      <GivenUpNotes work={transmittal.given_up} />
      <div className="flex flex-wrap items-center gap-2">
        {transmittal.packed ? (
          <>
            <Button onClick={() => download(`/api/transmittals/${line.id}/parts/cover`)}>
              Cover sheet, PDF
            </Button>
            <Button onClick={() => download(`/api/transmittals/${line.id}/parts/pack`)}>
              All of it, ZIP, {bytesText(transmittal.pack_bytes)}
            </Button>
            <Button
              title="What went, to whom, every time and hash, and the seal of the audit trail"
              onClick={() => download(`/api/transmittals/${line.id}/evidence`)}
            >
              Evidence, PDF
            </Button>
          </>
        ) : (
          <p role="status" className="text-second">
            Being packed, {transmittal.files_packed} of {documents.length} in it; mail goes out when that is
            done …
          </p>
        )}
      </div>
      <Recipients transmittal={transmittal} />
      <SenderActs transmittal={transmittal} />
      <section aria-label="Documents sent">
        <div className="mb-1 flex items-center justify-between gap-2">
          <h3 className="text-body font-semibold">
            {documents.length} {documents.length === 1 ? 'document' : 'documents'}
          </h3>
          <SendTheseToo documents={documents} />
        </div>
        <ul className="border-t border-line">
          {documents.map((document) => (
            <li
              key={document.revision_id}
              className="flex items-center gap-2 border-b border-line py-1.5 text-list"
            >
              <SheetLink
                revisionId={document.revision_id}
                number={document.number}
                revision={document.revision}
              />
              <span className="min-w-0 flex-1">
                <span className="block truncate">{document.title}</span>
                <AlongWords along={document.along} />
              </span>
              {document.older_then && <span className="text-second">superseded already then</span>}
              <StandingWord standing={document.standing} />
              <VerdictMark code={document.verdict} />
            </li>
          ))}
        </ul>
      </section>
      <LinkedMarks kind="transmittal" target={line.id} />
      <LettersAbout kind="transmittal" target={line.id} words="this transmittal" />
      <Following kind="transmittal" target={line.id} words="this transmittal" />
    </div>
  )
}

/** That it is void, why, and what came in its place; or in whose place it came. */
function Void({ transmittal }: { transmittal: Transmittal }) {
  const { void: found, replaces } = transmittal
  return (
    <>
      {replaces && (
        <p className="text-second">
          It came in place of <span className="code">{replaces}</span>, which is void.
        </p>
      )}
      {found && (
        <p role="status" className="border-l-4 border-brick bg-brick-tint px-3 py-2 text-brick">
          Void since <When at={found.at} time />, by {found.by.name}: {found.why}
          {found.replaced_by && (
            <>
              {' '}
              In its place came <span className="code">{found.replaced_by}</span>.
            </>
          )}
        </p>
      )}
    </>
  )
}

/** What its senders do with it: remind who is silent, void a mistake. */
function SenderActs({ transmittal }: { transmittal: Transmittal }) {
  const chase = useChase()
  const [voiding, setVoiding] = useState(false)
  if (!transmittal.may_void) return null
  return (
    <div className="flex flex-wrap items-center gap-2">
      {transmittal.may_chase && (
        <Button busy={chase.isPending} onClick={() => chase.mutate([transmittal.line.id])}>
          Remind the silent
        </Button>
      )}
      <Button onClick={() => setVoiding(true)}>Void it …</Button>
      {chase.data && (
        <span role="status" className="text-second">
          {chase.data.people
            ? `${counted(chase.data.people, 'person', 'people')} reminded.`
            : 'All were reminded today already, or their mail came back.'}
        </span>
      )}
      <ErrorNote error={chase.error} />
      {voiding && <VoidDialog transmittal={transmittal} onClose={() => setVoiding(false)} />}
    </div>
  )
}

/** The same documents, at these revisions, on a form for somebody else. */
function SendTheseToo({ documents }: Pick<Transmittal, 'documents'>) {
  const { project } = useSeat()
  const navigate = useNavigate()
  if (!hasLevel(project, 'file')) return null
  const revisions = documents.map((each) => each.revision_id)
  return (
    <Button
      small
      onClick={() =>
        void navigate({ to: '/transmittals/new', search: { revisions: idsForAddress(revisions) } })
      }
    >
      Send these to somebody else
    </Button>
  )
}
