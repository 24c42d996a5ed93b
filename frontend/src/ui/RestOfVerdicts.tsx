import type { Schemas } from '../api/client'
import { counted } from '../domain/counted'
import { Button } from './Button'
import type { useAnswersBy } from './useBegunAnswers'

interface Props {
  verdicts: readonly Schemas['VerdictShown'][]
  /** The documents that have none yet. */
  open: readonly { document_id: string }[]
  answers: ReturnType<typeof useAnswersBy>
}

/** The same verdict for all that have none yet. */
export function RestOfVerdicts({ verdicts, open, answers }: Props) {
  if (!open.length) return null
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span>{counted(open.length, 'document')} without a verdict yet: the same for all of them</span>
      {verdicts.map(({ code, words }) => (
        <Button
          key={code}
          small
          aria-label={`${code} ${words} for the rest`}
          onClick={() => open.forEach((each) => answers.change(each.document_id, { verdict: code }))}
        >
          {code}
        </Button>
      ))}
    </div>
  )
}
