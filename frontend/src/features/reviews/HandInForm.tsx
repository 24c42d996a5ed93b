import { Link } from '@tanstack/react-router'

import { counted } from '../../domain/counted'
import { inSet } from '../../domain/verdicts'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { GraveChoice } from '../../ui/Grave'
import { Lines } from '../../ui/Input'
import { ErrorNote } from '../../ui/Notes'
import { SheetLink } from '../../ui/SheetLink'
import { VerdictMark } from '../../ui/Stamp'
import type { Review, SlipStep, useStepActs } from './useReviews'
import { useBegunAnswers, type Answer } from '../../ui/useBegunAnswers'
import type { Keep } from '../../ui/useKept'

type Verdicts = Review['verdict_set']

/** What one says of each document that one is asked about, and what it comes to. */
function useSaying(review: Review, step: SlipStep) {
  const answers = useBegunAnswers(review.id, step.id, review.number)
  const proposed = new Map(review.documents.map((each) => [each.document_id, each.proposed]))
  const of = (id: string) => answers.of(id, proposed.get(id))
  const change = (id: string, part: Partial<Answer>) => answers.change(id, part, proposed.get(id))
  const mine = new Set(step.mine.answers)
  const documents = review.documents.filter((each) => mine.has(each.document_id))
  const all = () =>
    documents.map(({ document_id, revision_id }) => ({ document_id, revision_id, ...of(document_id) }))
  return { ...answers, of, change, documents, all }
}

/** One's answers in a running step: a comment on each document, and a verdict where the step decides. */
export function HandInForm({
  review,
  step,
  acts,
}: {
  review: Review
  step: SlipStep
  acts: ReturnType<typeof useStepActs>
}) {
  const decides = step.act === 'decide'
  const verdicts = decides ? inSet(review.verdict_set, step.verdicts) : []
  const { form, of, change, documents, all, note, setNote, error, notYet } = useSaying(review, step)
  const open = documents.filter((document) => decides && !of(document.document_id).verdict).length
  const giveAll = (verdict: string) => documents.forEach((each) => change(each.document_id, { verdict }))

  return (
    <form
      aria-label={`Hand in ${step.name}`}
      className="border-t-2 border-plum pt-3"
      onSubmit={(event) => {
        event.preventDefault()
        acts.handIn.mutate({ form, answers: all(), note })
      }}
    >
      <Head review={review} step={step} onAll={decides && documents.length > 1 ? giveAll : undefined} />
      {step.sums_up && <SummingUp review={review} />}
      {documents.map((document) => (
        <OneDocument
          key={document.document_id}
          review={review}
          document={document}
          verdicts={verdicts}
          keep={form}
          said={of(document.document_id)}
          onSay={(part) => change(document.document_id, part)}
        />
      ))}
      {documents.length < review.documents.filter((each) => each.state === 'going').length && (
        <p className="text-second">What you filed yourself is decided by the others.</p>
      )}
      <TextArea
        keep={form}
        label="Note to whoever comes next"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <ErrorNote error={acts.handIn.error ?? error} />
      <p className="mt-2 text-right text-second">{step.mine.follows}</p>
      <Foot notYet={notYet} open={open} decides={decides} busy={acts.handIn.isPending} />
    </form>
  )
}

interface HeadProps {
  review: Review
  step: SlipStep
  onAll: ((verdict: string) => void) | undefined
}

function Head({ review, step, onAll }: HeadProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center justify-between gap-x-2 gap-y-1">
      <h3 className="text-read font-semibold">
        {step.act === 'decide' ? 'Your verdicts' : 'Your comments'}
        {review.slip.filter((each) => each.mine.may_hand_in).length > 1 && ` for ${step.name}`}
      </h3>
      <Link
        to="/reviews/$reviewId/go-on"
        params={{ reviewId: review.id }}
        className="mr-auto inline-flex min-h-6 items-center text-list text-plum underline"
      >
        Answer on the sheets
      </Link>
      {onAll && <ForAll verdicts={inSet(review.verdict_set, step.verdicts)} onChoose={onAll} />}
    </div>
  )
}

/** Whoever sums up sees where the others differ; the gravest is proposed. */
function SummingUp({ review }: { review: Review }) {
  const differ = review.documents.filter(
    (each) => new Set(each.said.map((answer) => answer.verdict).filter(Boolean)).size > 1,
  ).length
  return (
    <p className="mb-2 text-second">
      You sum up what was said: your verdict counts.{' '}
      {differ
        ? `On ${counted(differ, 'document')} the verdicts differ; the gravest is proposed.`
        : 'What the others say is proposed.'}
    </p>
  )
}

interface FootProps {
  notYet: string | false
  open: number
  decides: boolean
  busy: boolean
}

function Foot({ notYet, open, decides, busy }: FootProps) {
  return (
    <div className="mt-2 flex items-center justify-end gap-3">
      {open > 0 && <span className="text-second">{open} without a verdict yet</span>}
      <Button
        look="act"
        type="submit"
        busy={busy}
        why={notYet || (open > 0 && `Still without an answer: ${counted(open, 'document')}.`)}
      >
        {decides ? 'Hand in verdicts' : 'Hand in comments'}
      </Button>
    </div>
  )
}

interface OneProps {
  review: Review
  document: Review['documents'][number]
  /** None where the step comments. */
  verdicts: Verdicts
  keep: Keep
  said: Answer
  onSay: (part: Partial<Answer>) => void
}

function OneDocument({ review, document, verdicts, keep, said, onSay }: OneProps) {
  return (
    <fieldset className="mb-2 border border-line px-3 py-2">
      <legend className="sr-only">{document.number}</legend>
      <p className="flex items-baseline gap-2 text-list">
        <SheetLink revisionId={document.revision_id} number={document.number} revision={document.revision} />
        <span className="min-w-0 flex-1 truncate">{document.title}</span>
      </p>
      {document.revision !== document.current_revision && (
        <p className="mt-0.5 text-list font-semibold text-brick">
          {document.current_revision} has arrived. What you say here is about {document.revision}.
        </p>
      )}
      <Earlier review={review} documentId={document.document_id} />
      {verdicts.length > 0 && (
        <div
          role="radiogroup"
          aria-label={`Verdict on ${document.number}`}
          className="mt-1.5 flex flex-wrap gap-1"
        >
          {verdicts.map((verdict) => (
            <label
              key={verdict.code}
              className="flex cursor-pointer items-center gap-1 border border-line px-1.5 py-0.5 text-list has-checked:border-plum has-checked:bg-plum-tint"
            >
              <input
                type="radio"
                name={`verdict-${document.document_id}`}
                className="accent-plum"
                checked={said.verdict === verdict.code}
                onChange={() => onSay({ verdict: verdict.code })}
              />
              <span className="font-bold">{verdict.code}</span> {verdict.words}
            </label>
          ))}
        </div>
      )}
      <div className="mt-1.5 flex items-start gap-2">
        <Lines
          keep={keep}
          aria-label={`Comment on ${document.number}`}
          rows={1}
          placeholder="Comment"
          value={said.comment}
          onChange={(event) => onSay({ comment: event.target.value })}
          className="min-w-0 flex-1"
        />
        {said.comment && (
          <GraveChoice
            label={`How grave your comment on ${document.number} is`}
            value={said.grave}
            onChange={(grave) => onSay({ grave })}
          />
        )}
      </div>
    </fieldset>
  )
}

function ForAll({ verdicts, onChoose }: { verdicts: Verdicts; onChoose: (verdict: string) => void }) {
  return (
    <div className="flex items-center gap-1.5 text-second">
      the same for all
      {verdicts.map((verdict) => (
        <Button
          key={verdict.code}
          small
          aria-label={`${verdict.code} ${verdict.words} for all`}
          onClick={() => onChoose(verdict.code)}
        >
          {verdict.code}
        </Button>
      ))}
    </div>
  )
}

/** What others said of this document, whether before or beside. */
export function Earlier({ review, documentId }: { review: Review; documentId: string }) {
  const document = review.documents.find((each) => each.document_id === documentId)
  return document?.said.map((answer) => {
    const step = review.slip[answer.step]
    const who = step?.places[answer.place]?.who.name
    return (
      <p
        key={`${answer.step} ${answer.place}`}
        className="mt-0.5 flex items-baseline gap-1.5 border-l-2 border-line pl-2 text-list text-second"
      >
        <span className="font-medium text-ink">
          {step?.name}
          {step?.quota !== 'any' && `, ${who ?? ''}`}:
        </span>
        {answer.verdict && <VerdictMark code={answer.verdict} />}
        <span>{answer.comment}</span>
      </p>
    )
  })
}
