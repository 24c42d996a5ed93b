import { useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { useLookedAt } from '../../api/lookedAt'
import { Button } from '../../ui/Button'
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
import { LinkedMarks } from '../../ui/LinkedMarks'
import { SheetLink } from '../../ui/SheetLink'
import { HandInForm } from './HandInForm'
import { Slip } from './Slip'
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
  const error = acts.pickUp.error ?? acts.putDown.error ?? acts.handIn.error
  const part = review.my_part
  return (
    <div className="flex flex-col gap-4">
      {review.message && <p className="border-l-2 border-line pl-3 text-read">“{review.message}”</p>}
      <Outcome review={review} />
      <Slip review={review} />
      <ErrorNote error={error} />
      {(part.may_pick_up || part.may_put_down) && (
        <div className="flex items-center gap-2">
          {part.may_pick_up && (
            <Button look="act" busy={acts.pickUp.isPending} onClick={() => acts.pickUp.mutate()}>
              Pick up
            </Button>
          )}
          {part.may_put_down && (
            <Button busy={acts.putDown.isPending} onClick={() => acts.putDown.mutate()}>
              Put down
            </Button>
          )}
          <p className="text-second">
            {part.may_pick_up
              ? 'Pick it up first, so that nobody does it twice.'
              : 'It is with you. Others see that you have it.'}
          </p>
        </div>
      )}
      {part.may_hand_in ? <HandInForm review={review} acts={acts} /> : <Documents review={review} />}
      <LinkedMarks kind="review" target={review.id} />
      <Following kind="review" target={review.id} words="this review" />
      {part.may_cancel && <Cancel acts={acts} review={review} />}
    </div>
  )
}

/** How it ended, and the one next act. */
function Outcome({ review }: { review: Review }) {
  const navigate = useNavigate()
  if (review.state === 'cancelled')
    return (
      <p className="bg-brick-tint px-3 py-2 text-brick">
        Cancelled <When at={review.ended_at} time />: {review.why_cancelled}
      </p>
    )
  if (review.state === 'running')
    return (
      <p className="text-second">
        Expected to end by <Day on={review.forecast_end_on} />.
      </p>
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
              {document.revision !== document.current_revision && (
                <span className="font-semibold text-brick">{document.current_revision} has arrived</span>
              )}
              <VerdictMark code={document.verdict} />
            </div>
            {review.slip.flatMap((step) =>
              step.answers
                .filter((answer) => answer.document_id === document.document_id && answer.comment)
                .map((answer) => (
                  <p key={step.name} className="mt-0.5 border-l-2 border-line pl-2 text-second">
                    <span className="font-medium text-ink">{step.name}:</span> {answer.comment}
                  </p>
                )),
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

function Cancel({ review, acts }: { review: Review; acts: ReturnType<typeof useReviewActs> }) {
  const [open, setOpen] = useState(false)
  const form = useKept('cancel-review', review.id, review.number)
  const [reason, setReason] = useField(form, 'reason', '')
  return (
    <div>
      <Button small look="stop" onClick={() => setOpen(true)}>
        Cancel the review
      </Button>
      <Dialog
        title={`Cancel ${review.number}`}
        about={`${review.name}: it ends without verdicts. Steps that were handed in stay on the slip.`}
        open={open}
        onClose={() => setOpen(false)}
      >
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            acts.cancel.mutate(reason, {
              onSuccess: () => {
                form.drop()
                setOpen(false)
              },
            })
          }}
        >
          <TextArea
            keep={form}
            label="Why"
            required
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <ErrorNote error={acts.cancel.error} />
          <div className="flex justify-end gap-2">
            <Button onClick={() => setOpen(false)}>Let it run</Button>
            <Button
              look="stop"
              type="submit"
              busy={acts.cancel.isPending}
              why={!reason.trim() && 'Say why first.'}
            >
              Cancel the review
            </Button>
          </div>
        </form>
      </Dialog>
    </div>
  )
}
