import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useSearch } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useLookedAt } from '../../api/lookedAt'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
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
import { LinkedMarks } from '../../ui/LinkedMarks'
import { SheetLink } from '../../ui/SheetLink'
import { Recipients } from './Recipients'

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
      <GivenUpNotes work={transmittal.given_up} />
      <div className="flex items-center gap-2">
        {transmittal.packed ? (
          <>
            <Button onClick={() => download(`/api/transmittals/${line.id}/parts/cover`)}>
              Cover sheet, PDF
            </Button>
            <Button onClick={() => download(`/api/transmittals/${line.id}/parts/pack`)}>
              All of it, ZIP, {bytesText(transmittal.pack_bytes)}
            </Button>
          </>
        ) : (
          <p role="status" className="text-second">
            Being packed; mail goes out when that is done …
          </p>
        )}
      </div>
      <Recipients transmittal={transmittal} />
      <section aria-label="Documents sent">
        <h3 className="mb-1 text-body font-semibold">
          {documents.length} {documents.length === 1 ? 'document' : 'documents'}
        </h3>
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
              <span className="min-w-0 flex-1 truncate">{document.title}</span>
              {document.older_then && <span className="text-second">superseded already then</span>}
              <StandingWord standing={document.standing} />
              <VerdictMark code={document.verdict} />
            </li>
          ))}
        </ul>
      </section>
      <LinkedMarks kind="transmittal" target={line.id} />
      <Following kind="transmittal" target={line.id} words="this transmittal" />
    </div>
  )
}
