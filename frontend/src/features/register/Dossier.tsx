import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { Download } from 'lucide-react'
import type { ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useSeat } from '../../api/me'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Panel } from '../../ui/Panel'
import { VerdictMark } from '../../ui/Stamp'
import { Due, When } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { Timeline } from '../../ui/Trail'

type DossierData = Schemas['Dossier']

/** Everything about one document. */
export function Dossier({ documentId, onClose }: { documentId: string; onClose: () => void }) {
  const dossier = useQuery({
    queryKey: ['document', documentId],
    queryFn: () =>
      unwrap(api.GET('/api/documents/{document_id}', { params: { path: { document_id: documentId } } })),
  })
  return (
    <Panel label="Dossier" onClose={onClose}>
      {dossier.error && <ErrorNote error={dossier.error} />}
      {!dossier.data && !dossier.error && <Loading what="the dossier" />}
      {dossier.data && <Content key={documentId} dossier={dossier.data} />}
    </Panel>
  )
}

function Content({ dossier }: { dossier: DossierData }) {
  const { line } = dossier
  return (
    <>
      <header className="px-4 pt-3 pr-10 pb-2">
        <p className="code text-[13px]">{line.number}</p>
        <h2 className="text-[17px] leading-snug font-semibold">{line.title}</h2>
      </header>
      <Tabs
        label="Dossier"
        tabs={[
          { key: 'now', words: 'Now', content: <Now dossier={dossier} /> },
          {
            key: 'revisions',
            words: 'Revisions',
            count: dossier.revisions.length,
            content: <Revisions dossier={dossier} />,
          },
          {
            key: 'reviews',
            words: 'Reviews',
            count: dossier.reviews.length,
            content: <Reviews dossier={dossier} />,
          },
          { key: 'sent', words: 'Sent', count: dossier.sent.length, content: <Sent dossier={dossier} /> },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={line.id} /> },
        ]}
      />
    </>
  )
}

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-second">{name}</dt>
      <dd>{children}</dd>
    </>
  )
}

function Now({ dossier }: { dossier: DossierData }) {
  const { project } = useSeat()
  const { line } = dossier
  const current = dossier.revisions.find((revision) => !revision.superseded_at)
  return (
    <div className="flex flex-col gap-3">
      <Link
        to="/sheet/$revisionId"
        params={{ revisionId: line.revision_id }}
        className="block border border-line bg-white hover:border-plum"
        aria-label={`Open the sheet ${line.number} ${line.revision}`}
      >
        <img
          src={`/api/sheets/${line.revision_id}/thumbnail`}
          alt={`Sheet ${line.number}, small`}
          className="mx-auto max-h-[210px] object-contain"
        />
      </Link>
      <div className="flex gap-2">
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: line.revision_id }}
          className="inline-flex h-8 items-center rounded-[3px] border border-plum bg-plum px-3 text-[13.5px] font-medium text-on-plum"
        >
          Open the sheet
        </Link>
        <Button onClick={() => download(`/api/revisions/${line.revision_id}/download`)}>
          <Download size={14} aria-hidden /> Download
        </Button>
      </div>
      <dl className="grid grid-cols-[110px_1fr] gap-x-3 gap-y-1 text-list">
        <Fact name="Revision">
          <span className="code font-bold">{line.revision}</span>
          {current && (
            <span className="text-second">
              , filed <When at={current.filed_at} /> by {current.filed_by.name}
            </span>
          )}
        </Fact>
        <Fact name="Status">
          <span className="code">{line.status}</span> {project.statuses[line.status]}
        </Fact>
        <Fact name="Verdict">
          {line.verdict ? <VerdictMark code={line.verdict} spelled /> : 'none on this revision'}
        </Fact>
        <Fact name="With">{line.standing.with_whom || 'nobody'}</Fact>
        {line.standing.since_at && (
          <Fact name="Since">
            <When at={line.standing.since_at} time />
          </Fact>
        )}
        {line.standing.due_on && (
          <Fact name="Due">
            <Due standing={line.standing} />
          </Fact>
        )}
        <Fact name="Folder">{dossier.folder}</Fact>
        <Fact name="Discipline">{project.disciplines[line.discipline] ?? line.discipline}</Fact>
        <Fact name="Originator">
          <span className="code">{dossier.originator}</span>
        </Fact>
        <Fact name="Sheet">{dossier.sheet_size || 'unknown'}</Fact>
        <Fact name="Next revision">
          <span className="code">{dossier.next_revisions.join(' or ')}</span>
        </Fact>
      </dl>
    </div>
  )
}

function Revisions({ dossier }: { dossier: DossierData }) {
  return (
    <ol className="flex flex-col">
      {dossier.revisions.map((revision) => (
        <li
          key={revision.id}
          className="grid grid-cols-[88px_1fr] gap-3 border-b border-line py-2.5 text-list last:border-b-0"
        >
          <Link
            to="/sheet/$revisionId"
            params={{ revisionId: revision.id }}
            className="border border-line bg-white"
            aria-label={`Open ${revision.code}`}
          >
            <img
              src={`/api/sheets/${revision.id}/thumbnail`}
              alt=""
              className="h-[58px] w-full object-contain"
            />
          </Link>
          <div>
            <p className="flex items-center gap-2">
              <span className="code font-bold">{revision.code}</span>
              <span className="code text-second">{revision.status}</span>
              <VerdictMark code={revision.verdict} />
              <span className={revision.superseded_at ? 'text-second' : 'font-semibold text-spruce'}>
                {revision.superseded_at ? 'superseded' : 'current'}
              </span>
            </p>
            <p>
              Filed <When at={revision.filed_at} time /> by {revision.filed_by.name}, from{' '}
              {revision.came_from}
            </p>
            <p className="truncate text-second" title={revision.file_name}>
              {revision.file_name}
            </p>
            <p className="text-second">
              {bytesText(revision.size_bytes)}, SHA-256{' '}
              <span className="code" title={revision.sha256}>
                {revision.sha256.slice(0, 12)}…
              </span>
            </p>
          </div>
        </li>
      ))}
    </ol>
  )
}

function Reviews({ dossier }: { dossier: DossierData }) {
  if (!dossier.reviews.length) return <p className="text-second">It has not been in a review yet.</p>
  return (
    <ul>
      {dossier.reviews.map((review) => (
        <li
          key={review.id}
          className="flex items-center gap-2 border-b border-line py-2 text-list last:border-b-0"
        >
          <Link to="/reviews/$reviewId" params={{ reviewId: review.id }} className="code text-plum underline">
            {review.number}
          </Link>
          <span className="min-w-0 flex-1 truncate">{review.name}</span>
          <span className="code">{review.revision}</span>
          <VerdictMark code={review.verdict} />
          <span className="text-second">{review.state}</span>
          <When at={review.started_at} />
        </li>
      ))}
    </ul>
  )
}

function Sent({ dossier }: { dossier: DossierData }) {
  if (!dossier.sent.length) return <p className="text-second">It has not been sent out yet.</p>
  return (
    <ul>
      {dossier.sent.map((sent) => (
        <li
          key={sent.id}
          className="flex items-center gap-2 border-b border-line py-2 text-list last:border-b-0"
        >
          <Link
            to="/transmittals/$transmittalId"
            params={{ transmittalId: sent.id }}
            className="code text-plum underline"
          >
            {sent.number}
          </Link>
          <span className="flex-1">{sent.purpose}</span>
          <span className="code">{sent.revision}</span>
          <When at={sent.sent_at} />
        </li>
      ))}
    </ul>
  )
}
