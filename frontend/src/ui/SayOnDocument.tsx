import type { ReactNode } from 'react'

import type { Schemas } from '../api/client'
import { GraveChoice } from './Grave'
import { Lines } from './Input'
import type { useAnswersBy } from './useBegunAnswers'
import { keptWords } from './useBegunAnswers'
import { VerdictLetters } from './VerdictLetters'

interface Props {
  answers: ReturnType<typeof useAnswersBy>
  stepId: string
  documentId: string
  /** Empty where only a comment is asked for. */
  verdicts: readonly Schemas['VerdictShown'][]
  proposed?: string
  /** What one can do next, behind the comment; and words before and after those that say whether it is kept. */
  children: ReactNode
  before?: string
  after?: string
}

/** What one says of the document that lies open: the verdict's letters, a comment, how grave it is. */
export function SayOnDocument({
  answers,
  stepId,
  documentId,
  verdicts,
  proposed = '',
  children,
  before = '',
  after = '',
}: Props) {
  const said = answers.of(documentId, proposed)
  const change = (part: Partial<typeof said>) => answers.change(documentId, part, proposed)
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        {verdicts.length > 0 && (
          <VerdictLetters
            name={stepId}
            verdicts={verdicts}
            chosen={said.verdict}
            onChoose={(verdict) => change({ verdict })}
          />
        )}
        <Lines
          keep={answers.form}
          aria-label="Your comment on this document"
          rows={1}
          placeholder="Comment"
          value={said.comment}
          onChange={(event) => change({ comment: event.target.value })}
          className="min-h-7 min-w-[160px] flex-1"
        />
        {said.comment && (
          <GraveChoice
            label="How grave your comment is"
            value={said.grave}
            onChange={(grave) => change({ grave })}
          />
        )}
        {children}
      </div>
      <p className="min-h-4 text-note text-second" aria-live="polite">
        {before}
        {keptWords(answers, said)}
        {after}
      </p>
    </>
  )
}
