import { Link } from '@tanstack/react-router'

import { counted } from '../../domain/counted'
import { Attachments } from '../../ui/Attachments'
import { VerdictMark } from '../../ui/Stamp'
import { Day, When } from '../../ui/Standing'
import type { Submittal } from './useSubmittals'

/** Each sending in with its answer, the latest first. */
export function Rounds({ submittal }: { submittal: Submittal }) {
  if (!submittal.rounds.length) return <p className="text-second">It has not been sent in yet.</p>
  return (
    <ol className="flex flex-col gap-3">
      {submittal.rounds.map((round) => (
        <RoundShown key={round.revision} round={round} />
      ))}
    </ol>
  )
}

function RoundShown({ round }: { round: Round }) {
  return (
    <li className="border border-line px-3 py-2 text-list">
      <p className="font-semibold">Revision {round.revision}</p>
      <p className="text-second">
        Sent in <When at={round.sent_at} time /> by {round.sent_by.name} ({round.sent_by.company})
      </p>
      {round.note && <Said words={round.note} />}
      <Attachments attachments={round.files} />
      <Registered round={round} />
      {round.answered_at ? <Answer round={round} /> : <Waiting round={round} />}
    </li>
  )
}

function Said({ words }: { words: string }) {
  return <p className="border-l-2 border-line pl-2 whitespace-pre-line">{words}</p>
}

function Answer({ round }: { round: Round }) {
  return (
    <div className="mt-2 border-t border-line pt-2">
      <p className="flex flex-wrap items-center gap-x-2">
        {round.verdict && <VerdictMark code={round.verdict.code} spelled />}
        <span className="text-second">
          <When at={round.answered_at} time />, {whose(round)}
          {round.days_taken !== null && `, after ${counted(round.days_taken, 'working day')}`}
          {round.review && (
            <>
              , in <ReviewLink review={round.review} />
            </>
          )}
        </span>
      </p>
      {round.items.length > 0 && (
        <p>{round.items.map((each) => `${each.title} ${each.verdict}`).join(', ')}</p>
      )}
      {round.answer_note && <Said words={round.answer_note} />}
      <Attachments attachments={round.answer_files} />
    </div>
  )
}

/** With whom it is to be answered, and by when. */
function Waiting({ round }: { round: Round }) {
  if (!round.approver && !round.review) return null
  return (
    <p className="mt-2 border-t border-line pt-2 text-second">
      {round.review ? (
        <>
          Goes round in <ReviewLink review={round.review} />, whose outcome answers it
        </>
      ) : (
        round.approver && `With ${round.approver.name} (${round.approver.company}) to answer`
      )}
      {round.due_on && (
        <>
          {' '}
          by <Day on={round.due_on} />
        </>
      )}
    </p>
  )
}

type Round = Submittal['rounds'][number]

function ReviewLink({ review }: { review: NonNullable<Round['review']> }) {
  return (
    <Link to="/reviews/$reviewId" params={{ reviewId: review.id }} className="code text-plum underline">
      {review.number}
    </Link>
  )
}

/** Its files as the register has them, and what kept one out. */
function Registered({ round }: { round: Round }) {
  if (!round.registered.length) return null
  const filed = round.registered.filter((each) => each.number)
  const nameOf = (id: string) => round.files.find((each) => each.id === id)?.name ?? 'A file'
  return (
    <div className="mt-1">
      {filed.length > 0 && (
        <p className="text-second">
          In the register:{' '}
          {filed.map((each, place) => (
            <span key={each.attachment_id}>
              {place > 0 && ', '}
              <Link
                to="/sheet/$revisionId"
                params={{ revisionId: each.revision_id }}
                className="code text-plum underline"
              >
                {each.number}
              </Link>
            </span>
          ))}
        </p>
      )}
      {round.registered
        .filter((each) => each.trouble)
        .map((each) => (
          <p key={each.attachment_id} className="text-brick">
            {nameOf(each.attachment_id)} could not be registered: {each.trouble}
          </p>
        ))}
    </div>
  )
}

function whose(round: Round): string {
  const by = round.answered_by
  const asked = round.approver
  if (!by) return ''
  if (round.answered_for && asked)
    return `entered by ${by.name} (${by.company}) on behalf of ${asked.name} (${asked.company})`
  return `${by.name} (${by.company})`
}
