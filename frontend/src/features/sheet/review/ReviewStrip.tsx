import { Link, useNavigate } from '@tanstack/react-router'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { useState } from 'react'

import { counted } from '../../../domain/counted'
import { Button } from '../../../ui/Button'
import { IconButton } from '../../../ui/IconButton'
import { ErrorNote } from '../../../ui/Notes'
import { VerdictMark } from '../../../ui/Stamp'
import { Due } from '../../../ui/Standing'
import { SayOnDocument } from '../../../ui/SayOnDocument'
import { useBegunAnswers } from '../../../ui/useBegunAnswers'
import { HandInDialog } from './HandInDialog'
import { useSheetParts, type SheetPart } from './part'
import { usePickUp } from './useStripActs'

/** The rows of slips that are mine and about this revision, as strips on its sheet. */
export function ReviewStrip({ revisionId }: { revisionId: string }) {
  const parts = useSheetParts(revisionId)
  return (
    <>
      <ErrorNote error={parts.error} />
      {parts.data?.map((part) => (
        <Strip key={part.step_id} part={part} revisionId={revisionId} />
      ))}
    </>
  )
}

function Strip({ part, revisionId }: { part: SheetPart; revisionId: string }) {
  return (
    <section
      aria-label={`Your part in ${part.number}, ${part.step}`}
      className="grid shrink-0 grid-cols-[minmax(190px,auto)_minmax(0,1fr)] gap-x-4 gap-y-1 border-t-2 border-plum bg-surface px-3 py-1.5 text-list max-md:grid-cols-1"
    >
      <Where part={part} />
      {part.may_hand_in ? <Saying part={part} revisionId={revisionId} /> : <PickUp part={part} />}
    </section>
  )
}

/** Which step of which review, the how manieth document of how many, and until when. */
function Where({ part }: { part: SheetPart }) {
  const navigate = useNavigate()
  const open = (revisionId: string) => void navigate({ to: '/sheet/$revisionId', params: { revisionId } })
  return (
    <div>
      <p className="flex items-center gap-1 whitespace-nowrap">
        <IconButton
          label="The document before in this review"
          disabled={!part.before_id}
          onClick={() => open(part.before_id)}
          icon={<ChevronLeft size={15} aria-hidden />}
        />
        <b>
          {part.place} of {part.count}
        </b>
        <IconButton
          label="The next document in this review"
          disabled={!part.after_id}
          onClick={() => open(part.after_id)}
          icon={<ChevronRight size={15} aria-hidden />}
        />
        <span className="font-semibold text-plum">{part.step}</span>
      </p>
      <p className="flex items-center gap-2 text-second">
        <Link
          to="/reviews/$reviewId"
          params={{ reviewId: part.review_id }}
          title={part.name}
          className="code inline-flex min-h-6 items-center text-plum underline"
        >
          {part.number}
        </Link>
        <Due standing={part} />
      </p>
    </div>
  )
}

function PickUp({ part }: { part: SheetPart }) {
  const pickUp = usePickUp(part)
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Button look="act" small busy={pickUp.isPending} onClick={() => pickUp.mutate()}>
        Pick up
      </Button>
      <span className="text-second">
        Others may take this step too. Pick it up, and they see that you have it.
      </span>
      <ErrorNote error={pickUp.error} />
    </div>
  )
}

/** The verdict's letters to press, a comment, the next document; and handing in when all is said. */
function Saying({ part, revisionId }: { part: SheetPart; revisionId: string }) {
  const answers = useBegunAnswers(part.review_id, part.step_id, part.number)
  const [handsIn, setHandsIn] = useState(false)
  return (
    <div className="flex min-w-0 flex-col gap-1">
      <Before part={part} revisionId={revisionId} />
      <Musts part={part} />
      <SayOnDocument
        answers={answers}
        stepId={part.step_id}
        documentId={part.document_id}
        verdicts={part.act === 'decide' ? part.verdict_set : []}
        proposed={part.proposed}
        before={part.act === 'decide' ? `${part.answered} of ${part.count} with a verdict. ` : ''}
        after={afterwards(part)}
      >
        <Next part={part} />
        <Button small look={part.after_id ? 'quiet' : 'act'} onClick={() => setHandsIn(true)}>
          Hand in …
        </Button>
      </SayOnDocument>
      <ErrorNote error={answers.error} />
      {handsIn && <HandInDialog part={part} answers={answers} onClose={() => setHandsIn(false)} />}
    </div>
  )
}

function afterwards({ marking, marks }: SheetPart): string {
  if (!marking) return ' In words alone: this step takes no marks.'
  return marks > 0 ? ` ${counted(marks, 'mark')} of yours here since it began.` : ''
}

function Next({ part }: { part: SheetPart }) {
  const navigate = useNavigate()
  if (!part.after_id) return null
  return (
    <Button
      small
      look="act"
      onClick={() => void navigate({ to: '/sheet/$revisionId', params: { revisionId: part.after_id } })}
    >
      Next
    </Button>
  )
}

/** What stands in the way of a verdict that lets the document be used. */
function Musts({ part }: { part: SheetPart }) {
  if (part.musts.length === 0) return null
  return (
    <p className="font-semibold text-brick">
      {part.musts.length === 1 ? 'Comment' : 'Comments'} {part.musts.join(', ')} must be done before it can be
      used.{' '}
      <Link
        to="/reviews/$reviewId"
        params={{ reviewId: part.review_id }}
        search={{ tab: 'comments' }}
        className="inline-flex min-h-6 items-center text-plum underline"
      >
        See the comment sheet
      </Link>
    </p>
  )
}

/** What others said of this document, and what has changed since one answered on it last. */
function Before({ part, revisionId }: { part: SheetPart; revisionId: string }) {
  if (!part.said.length && !part.last_answered) return null
  return (
    <div className="max-h-[72px] overflow-auto">
      {part.last_answered && (
        <Link
          to="/compare/$before/$after"
          params={{ before: part.last_answered.revision_id, after: revisionId }}
          className="inline-flex min-h-6 items-center text-plum underline"
        >
          What has changed since {part.last_answered.code}, which you answered on
        </Link>
      )}
      {part.said.map((each, place) => (
        <p key={place} className="flex items-baseline gap-1.5">
          <span className="font-medium whitespace-nowrap">
            {each.step}, {each.who}:
          </span>
          {each.verdict && <VerdictMark code={each.verdict} />}
          <span className="min-w-0 text-second">{each.comment}</span>
        </p>
      ))}
    </div>
  )
}
