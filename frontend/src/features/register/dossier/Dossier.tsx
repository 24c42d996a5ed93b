import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'

import { useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { hasLevel, useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { Panel } from '../../../ui/Panel'
import { VerdictMark } from '../../../ui/Stamp'
import { When } from '../../../ui/Standing'
import { Tabs } from '../../../ui/Tabs'
import { Talk, useTalk } from '../../../ui/Talk'
import { Timeline } from '../../../ui/Trail'
import { ShareDialog } from '../../../ui/ShareDialog'
import type { DossierData } from './dossierData'
import { DossierNow } from './DossierNow'
import { DossierRevisions } from './DossierRevisions'
import { Holders } from './Holders'

interface Props {
  documentId: string
  /** The one of its tabs that is asked for. */
  tab?: string | undefined
  onClose: () => void
}

/** Everything about one document. */
export function Dossier({ documentId, tab, onClose }: Props) {
  const dossier = useQuery({
    queryKey: ['document', documentId],
    queryFn: () =>
      unwrap(api.GET('/api/documents/{document_id}', { params: { path: { document_id: documentId } } })),
  })
  return (
    <Panel label="Dossier" onClose={onClose}>
      {dossier.error && <ErrorNote error={dossier.error} />}
      {!dossier.data && !dossier.error && <Loading what="the dossier" />}
      {dossier.data && <Content key={documentId} dossier={dossier.data} tab={tab} />}
    </Panel>
  )
}

function Content({ dossier, tab }: { dossier: DossierData; tab: string | undefined }) {
  const { line } = dossier
  const talk = useTalk('document', line.id)
  return (
    <>
      <header className="px-4 pt-3 pr-10 pb-2">
        <p className="code text-list">{line.number}</p>
        <h2 className="text-head leading-snug font-semibold">{line.title}</h2>
        {line.withdrawn && (
          <p className="mt-1 border-l-4 border-brick bg-brick-tint px-2 py-1 text-brick">
            Withdrawn <When at={dossier.withdrawn_at} />: {dossier.withdrawn_why}
          </p>
        )}
        {dossier.copy_here && (
          <p className="mt-1 border-l-4 border-slate bg-slate-tint px-2 py-1 text-slate">
            A copy, put into this folder <When at={dossier.copy_here.put_at} /> by {dossier.copy_here.why}.
            What comes later where it came from is not shown here.
          </p>
        )}
        {dossier.checked_out_by && (
          <p className="mt-1 border-l-4 border-ochre bg-ochre-tint px-2 py-1 text-ochre">
            Checked out by {dossier.checked_out_by.name} since <When at={line.checked_out_at} />
            {dossier.checked_out_note && <>: {dossier.checked_out_note}</>}
          </p>
        )}
      </header>
      <Tabs
        label="Dossier"
        asked={tab}
        tabs={[
          { key: 'now', words: 'Now', content: <DossierNow dossier={dossier} /> },
          {
            key: 'revisions',
            words: 'Revisions',
            count: dossier.revisions.length,
            content: <DossierRevisions dossier={dossier} />,
          },
          {
            key: 'reviews',
            words: 'Reviews',
            count: dossier.reviews.length,
            content: <Reviews dossier={dossier} />,
          },
          { key: 'sent', words: 'Sent', count: dossier.sent.length, content: <Sent dossier={dossier} /> },
          {
            key: 'talk',
            words: 'Talk',
            count: talk.data?.said.length ?? 0,
            content: <Talk kind="document" target={line.id} words="this document" revision={line.revision} />,
          },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={line.id} /> },
        ]}
      />
    </>
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
  return (
    <div className="flex flex-col items-start gap-3">
      <Holders dossier={dossier} />
      <GiveLink dossier={dossier} />
    </div>
  )
}

/** For whoever may send it out; the server asks once more. */
function GiveLink({ dossier }: { dossier: DossierData }) {
  const { project } = useSeat()
  const [open, setOpen] = useState(false)
  const { line } = dossier
  if (!hasLevel(project, 'file')) return null
  return (
    <>
      <Button onClick={() => setOpen(true)}>Give a link …</Button>
      {open && (
        <ShareDialog
          kind="document"
          target={line.id}
          words={`${line.number} ${line.title}`}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  )
}
