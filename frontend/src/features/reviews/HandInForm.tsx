import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { Lines } from '../../ui/Input'
import { ErrorNote } from '../../ui/Notes'
import { SheetLink } from '../../ui/SheetLink'
import type { Review, useReviewActs } from './useReviews'
import { useField, useKept, type Keep } from '../../ui/useKept'

interface Said {
  verdict: string
  comment: string
}

const NOTHING: Said = { verdict: '', comment: '' }

/** What is said of each document in a step, and the note to the next. */
function useAnswers(review: Review, step: string) {
  const form = useKept('hand-in', `${review.id} ${step}`, review.number)
  const [said, setSaid] = useField<Record<string, Said>>(form, 'said', {})
  const [note, setNote] = useField(form, 'note', '')
  const change = (id: string, part: Partial<Said>) =>
    setSaid((old) => ({ ...old, [id]: { ...NOTHING, ...old[id], ...part } }))
  return { form, of: (id: string) => said[id] ?? NOTHING, change, note, setNote }
}

/** The running step's answers: a comment on each document, and a verdict where the step decides. */
export function HandInForm({ review, acts }: { review: Review; acts: ReturnType<typeof useReviewActs> }) {
  const step = review.slip.find((each) => each.state === 'running')
  const decides = step?.act === 'decide'
  const { form, of, change, note, setNote } = useAnswers(review, step?.name ?? '')
  const open = review.documents.filter((document) => decides && !of(document.document_id).verdict).length
  const giveAll = (verdict: string) =>
    review.documents.forEach((each) => change(each.document_id, { verdict }))

  function submit() {
    const answers = review.documents.map((document) => ({
      document_id: document.document_id,
      ...of(document.document_id),
    }))
    acts.handIn.mutate({ form, answers, note })
  }

  return (
    <form
      aria-label={`Hand in ${step?.name ?? ''}`}
      className="border-t-2 border-plum pt-3"
      onSubmit={(event) => {
        event.preventDefault()
        submit()
      }}
    >
      <div className="mb-2 flex items-center justify-between gap-2">
        <h3 className="text-read font-semibold">{decides ? 'Your verdicts' : 'Your comments'}</h3>
        {decides && review.documents.length > 1 && <ForAll review={review} onChoose={giveAll} />}
      </div>
      {review.documents.map((document) => (
        <OneDocument
          key={document.document_id}
          review={review}
          document={document}
          decides={decides}
          keep={form}
          said={of(document.document_id)}
          onSay={(part) => change(document.document_id, part)}
        />
      ))}
      <TextArea
        keep={form}
        label="Note to whoever comes next"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <ErrorNote error={acts.handIn.error} />
      <Foot open={open} decides={decides} busy={acts.handIn.isPending} />
    </form>
  )
}

function Foot({ open, decides, busy }: { open: number; decides: boolean; busy: boolean }) {
  return (
    <div className="mt-2 flex items-center justify-end gap-3">
      {open > 0 && <span className="text-second">{open} without a verdict yet</span>}
      <Button
        look="act"
        type="submit"
        busy={busy}
        why={open > 0 && `Still without an answer: ${counted(open, 'document')}.`}
      >
        {decides ? 'Hand in verdicts' : 'Hand in comments'}
      </Button>
    </div>
  )
}

interface OneProps {
  review: Review
  document: Review['documents'][number]
  decides: boolean
  keep: Keep
  said: Said
  onSay: (part: Partial<Said>) => void
}

function OneDocument({ review, document, decides, keep, said, onSay }: OneProps) {
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
      {decides && (
        <div
          role="radiogroup"
          aria-label={`Verdict on ${document.number}`}
          className="mt-1.5 flex flex-wrap gap-1"
        >
          {review.verdict_set.map((verdict) => (
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
      <Lines
        keep={keep}
        aria-label={`Comment on ${document.number}`}
        rows={1}
        placeholder="Comment"
        value={said.comment}
        onChange={(event) => onSay({ comment: event.target.value })}
        className="mt-1.5 w-full"
      />
    </fieldset>
  )
}

function ForAll({ review, onChoose }: { review: Review; onChoose: (verdict: string) => void }) {
  return (
    <div className="flex items-center gap-1.5 text-second">
      the same for all
      {review.verdict_set.map((verdict) => (
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

/** What the steps before said of this document. */
function Earlier({ review, documentId }: { review: Review; documentId: string }) {
  return review.slip.flatMap((step) =>
    step.answers
      .filter((answer) => answer.document_id === documentId && answer.comment)
      .map((answer) => (
        <p key={step.name} className="mt-0.5 border-l-2 border-line pl-2 text-list text-second">
          <span className="font-medium text-ink">{step.name}:</span> {answer.comment}
        </p>
      )),
  )
}
