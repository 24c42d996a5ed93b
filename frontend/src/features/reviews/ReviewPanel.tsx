import { useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { download } from '../../api/download'
import { useLookedAt } from '../../api/lookedAt'
import { hasLevel, useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { idsForAddress } from '../../ui/chosen'
import { Dialog } from '../../ui/Dialog'
import { TextArea } from '../../ui/Field'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Panel } from '../../ui/Panel'
import { VerdictMark } from '../../ui/Stamp'
import { Day, When } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { Talk, useTalk } from '../../ui/Talk'
import { Timeline } from '../../ui/Trail'
import { Following } from '../../ui/Following'
import { LettersAbout } from '../../ui/LettersAbout'
import { LinkedMarks } from '../../ui/LinkedMarks'
import { SheetLink } from '../../ui/SheetLink'
import { Comments } from './Comments'
import { useComments } from './useComments'
import { Earlier } from './HandInForm'
import { EndsSaid } from './Path'
import { Slip } from './Slip'
import { StepActs } from './StepActs'
import { useReview, useReviewActs, type Review } from './useReviews'
import { useField, useKept } from '../../ui/useKept'

/** A review: its slip, its documents, and what the viewer may do now. */
export function ReviewPanel({ reviewId, onClose }: { reviewId: string; onClose: () => void }) {
  const review = useReview(reviewId)
  return (
    <Panel label="Review" onClose={onClose} width={620}>
      {review.error && <ErrorNote error={review.error} />}
      {!review.data && !review.error && <Loading what="the review" />}
      {review.data && <Content key={reviewId} review={review.data} />}
    </Panel>
  )
}

function Content({ review }: { review: Review }) {
  useLookedAt('review', review.id)
  const talk = useTalk('review', review.id)
  const comments = useComments(review.id)
  const { tab } = useSearch({ strict: false })
  return (
    <>
      <header className="px-4 pt-3 pr-10 pb-2">
        <p className="text-list text-second">
          <span className="code text-ink">{review.number}</span> · {review.route_name} · started by{' '}
          {review.started_by.name}, <When at={review.started_at} />
        </p>
        <h2 className="text-head font-semibold">{review.name}</h2>
      </header>
      <Tabs
        label="Review"
        asked={tab}
        tabs={[
          { key: 'now', words: 'Now', content: <Now review={review} /> },
          {
            key: 'comments',
            words: 'Comments',
            count: comments.data?.all.open ?? 0,
            content: <Comments reviewId={review.id} />,
          },
          {
            key: 'talk',
            words: 'Talk',
            count: talk.data?.said.length ?? 0,
            content: <Talk kind="review" target={review.id} words="this review" />,
          },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={review.id} /> },
        ]}
      />
    </>
  )
}

function Now({ review }: { review: Review }) {
  const acts = useReviewActs(review)
  const answering = review.slip.some((step) => step.mine.may_hand_in)
  return (
    <div className="flex flex-col gap-4">
      {review.message && <p className="border-l-2 border-line pl-3 text-read">“{review.message}”</p>}
      <Outcome review={review} />
      <Answers review={review} />
      <Slip review={review} />
      {review.state === 'running' && <EndsSaid ends={review.ends} />}
      {review.slip.map(
        (step) => step.state === 'running' && <StepActs key={step.id} review={review} step={step} />,
      )}
      <Newer review={review} acts={acts} />
      {!answering && <Documents review={review} />}
      <LinkedMarks kind="review" target={review.id} />
      <LettersAbout kind="review" target={review.id} words="this review" />
      <Following kind="review" target={review.id} words="this review" />
      <Ending acts={acts} review={review} />
    </div>
  )
}

/** Newer revisions have come: whoever may, goes on with them instead. */
function Newer({ review, acts }: { review: Review; acts: ReturnType<typeof useReviewActs> }) {
  const newer = review.documents.filter(
    (each) => each.state === 'going' && each.revision !== each.current_revision,
  )
  if (!newer.length || !review.my_part.may_swap) return null
  return (
    <div className="border-l-[3px] border-ochre bg-surface px-3 py-2">
      <p>
        {newer.map((each) => `${each.number} ${each.current_revision}`).join(', ')}{' '}
        {newer.length === 1 ? 'has' : 'have'} arrived. Let it run, and it is about what was sent; or swap{' '}
        {newer.length === 1 ? 'it' : 'them'} in: the stage begins again, and what was answered in it stays on
        the slip, crossed out.
      </p>
      <ErrorNote error={acts.swapIn.error} />
      <Button
        small
        className="mt-2"
        busy={acts.swapIn.isPending}
        onClick={() => acts.swapIn.mutate(newer.map((each) => each.document_id))}
      >
        Swap {newer.length === 1 ? 'it' : 'them'} in
      </Button>
    </div>
  )
}

/** The day of the contract beside those of the steps. */
function Contract({ review }: { review: Review }) {
  const { contract } = review
  if (!contract) return null
  return (
    <>
      <p>
        The contract wants an answer by <Day on={contract.answer_by} />; {contract.silence_words}.
        {contract.days_late > 0 && (
          <span className="font-semibold text-brick"> {counted(contract.days_late, 'day')} late.</span>
        )}
      </p>
      {contract.warning && <p className="font-semibold text-brick">{contract.warning}</p>}
    </>
  )
}

/** What is said in it waits for its end, for all but its people. */
function KeptAmong({ review }: { review: Review }) {
  if (review.shows !== 'end') return null
  return (
    <p>
      {review.shows_me
        ? 'What is said in it is read by its people, and by others when a document has left it.'
        : 'What is said in it is kept among its people. You see it when a document has left the review.'}
    </p>
  )
}

/** What waits for its outcome. */
function Answers({ review }: { review: Review }) {
  if (!review.answers) return null
  return (
    <p className="text-list text-second">
      {review.state === 'running' ? 'Its outcome answers ' : 'It was begun to answer '}
      <a href={review.answers.address} className="text-plum underline">
        {review.answers.words}
      </a>
      .
    </p>
  )
}

/** How it ended, and the one next act. */
function Outcome({ review }: { review: Review }) {
  const navigate = useNavigate()
  if (review.state === 'cancelled' || review.state === 'recalled')
    return (
      <p className="bg-brick-tint px-3 py-2 text-brick">
        {review.state === 'cancelled' ? 'Cancelled' : 'Recalled'} <When at={review.ended_at} time />
        {review.why_cancelled && `: ${review.why_cancelled}`}
      </p>
    )
  if (review.state === 'running')
    return (
      <div className="text-second">
        <p>
          Expected to end by <Day on={review.forecast_end_on} />.
        </p>
        <Contract review={review} />
        <KeptAmong review={review} />
      </div>
    )
  return (
    <div className="flex items-center justify-between gap-3 bg-spruce-tint px-3 py-2 text-spruce">
      <p>
        Closed <When at={review.ended_at} time />
        {review.transmittals.length > 0
          ? `, sent out with ${review.transmittals.join(', ')}.`
          : '. Not sent out yet.'}
      </p>
      {review.my_part.may_send && (
        <Button
          look={review.transmittals.length ? 'quiet' : 'act'}
          onClick={() => void navigate({ to: '/transmittals/new', search: { review: review.id } })}
        >
          Send out
        </Button>
      )}
    </div>
  )
}

/** The documents at the revisions under review, with what the steps said of each. */
function Documents({ review }: { review: Review }) {
  return (
    <section aria-label="Documents under review">
      <h3 className="mb-1 text-body font-semibold">
        {review.documents.length} {review.documents.length === 1 ? 'document' : 'documents'}
      </h3>
      <ul className="border-t border-line">
        {review.documents.map((document) => (
          <li key={document.document_id} className="border-b border-line py-1.5 text-list">
            <div className="flex items-center gap-2">
              <SheetLink
                revisionId={document.revision_id}
                number={document.number}
                revision={document.revision}
              />
              <span className="min-w-0 flex-1 truncate" title={document.title}>
                {document.title}
              </span>
              {document.state === 'back' && <span className="text-second">back to its author</span>}
              {document.revision !== document.current_revision && (
                <span className="font-semibold text-brick">{document.current_revision} has arrived</span>
              )}
              <VerdictMark code={document.verdict} />
            </div>
            <Earlier review={review} documentId={document.document_id} />
          </li>
        ))}
      </ul>
    </section>
  )
}

const ENDINGS = {
  recall: {
    words: 'Recall it',
    title: (review: Review) => `Recall ${review.number}`,
    about: 'Nothing is decided yet: it is taken back, and its documents can be sent on a route again.',
    why: 'Why (optional)',
    leave: 'Let it run',
  },
  cancel: {
    words: 'Cancel the review',
    title: (review: Review) => `Cancel ${review.number}`,
    about: 'It ends without verdicts. Steps that were handed in stay on the slip.',
    why: 'Why',
    leave: 'Let it run',
  },
} as const

interface EndingProps {
  review: Review
  acts: ReturnType<typeof useReviewActs>
}

/** It is taken back by its starter while nothing is decided, or ends without an outcome. */
function Ending({ review, acts }: EndingProps) {
  const [open, setOpen] = useState<keyof typeof ENDINGS | null>(null)
  const part = review.my_part
  const { project } = useSeat()
  const navigate = useNavigate()
  const going = review.documents.map((each) => each.revision_id)
  return (
    <div className="flex flex-wrap gap-2">
      <Button small onClick={() => download(`/api/reviews/${review.id}/record`)}>
        Take the record (PDF)
      </Button>
      {project.tools.includes('sessions') && hasLevel(project, 'file') && (
        <Button
          small
          title="Its people go through the sheets together"
          onClick={() => void navigate({ to: '/sessions/new', search: { revisions: idsForAddress(going) } })}
        >
          Make a session
        </Button>
      )}
      {part.may_cancel && (
        <Button small busy={acts.remind.isPending} onClick={() => acts.remind.mutate()}>
          Remind them
        </Button>
      )}
      {part.may_recall && (
        <Button small onClick={() => setOpen('recall')}>
          {ENDINGS.recall.words}
        </Button>
      )}
      {part.may_cancel && (
        <Button small look="stop" onClick={() => setOpen('cancel')}>
          {ENDINGS.cancel.words}
        </Button>
      )}
      <ErrorNote error={acts.remind.error} />
      {acts.remind.isSuccess && (
        <p role="status" className="text-second">
          Whoever has not answered has been reminded.
        </p>
      )}
      {open && (
        <Dialog
          title={ENDINGS[open].title(review)}
          about={`${review.name}: ${ENDINGS[open].about}`}
          open
          onClose={() => setOpen(null)}
        >
          <EndForm kind={open} review={review} acts={acts} onDone={() => setOpen(null)} />
        </Dialog>
      )}
    </div>
  )
}

function EndForm({
  kind,
  review,
  acts,
  onDone,
}: EndingProps & { kind: keyof typeof ENDINGS; onDone: () => void }) {
  const form = useKept('cancel-review', `${review.id} ${kind}`, review.number)
  const [reason, setReason] = useField(form, 'reason', '')
  const act = acts[kind]
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        act.mutate(reason, {
          onSuccess: () => {
            form.drop()
            onDone()
          },
        })
      }}
    >
      <TextArea
        keep={form}
        label={ENDINGS[kind].why}
        required={kind === 'cancel'}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <ErrorNote error={act.error} />
      <div className="flex justify-end gap-2">
        <Button onClick={onDone}>{ENDINGS[kind].leave}</Button>
        <Button
          look="stop"
          type="submit"
          busy={act.isPending}
          why={kind === 'cancel' && !reason.trim() && 'Say why first.'}
        >
          {ENDINGS[kind].words}
        </Button>
      </div>
    </form>
  )
}
