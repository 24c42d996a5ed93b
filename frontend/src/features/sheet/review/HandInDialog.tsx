import { useNavigate } from '@tanstack/react-router'

import { counted } from '../../../domain/counted'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { TextArea } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { RestOfVerdicts } from '../../../ui/RestOfVerdicts'
import type { useBegunAnswers } from '../../../ui/useBegunAnswers'
import type { SheetPart } from './part'
import { useHandIn } from './useStripActs'

interface Props {
  part: SheetPart
  answers: ReturnType<typeof useBegunAnswers>
  onClose: () => void
}

/** All that one said in the step goes at once, with a note; what will follow is said before the button. */
export function HandInDialog({ part, answers, onClose }: Props) {
  const navigate = useNavigate()
  // The strip is gone by then.
  const handIn = useHandIn(part, () =>
    navigate({ to: '/reviews/$reviewId', params: { reviewId: part.review_id } }),
  )
  const decides = part.act === 'decide'
  const all = Object.entries(part.revisions).map(([document_id, revision_id]) => ({
    document_id,
    revision_id,
    ...answers.of(document_id, part.sums_up && document_id === part.document_id ? part.proposed : ''),
  }))
  const open = decides ? all.filter((each) => !each.verdict) : []
  function send() {
    handIn.mutate({ form: answers.form, answers: all, note: answers.note })
  }
  return (
    <Dialog
      title={`Hand in for ${part.step}`}
      about={`${part.number} ${part.name}: ${counted(all.length, 'document')}. What is handed in stays as it is.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          send()
        }}
      >
        <RestOfVerdicts verdicts={part.verdict_set} open={open} answers={answers} />
        <TextArea
          keep={answers.form}
          label="Note to whoever comes next"
          value={answers.note}
          onChange={(event) => answers.setNote(event.target.value)}
        />
        <ErrorNote error={handIn.error} />
        <p className="text-second">{part.follows}</p>
        <div className="flex justify-end gap-2">
          {open.length > 0 && <FirstOpen open={open[0]?.revision_id ?? ''} onGo={onClose} />}
          <Button
            look="act"
            type="submit"
            busy={handIn.isPending}
            why={
              answers.notYet ||
              (open.length > 0 && `Still without a verdict: ${counted(open.length, 'document')}.`)
            }
          >
            {decides ? 'Hand in verdicts' : 'Hand in comments'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

function FirstOpen({ open, onGo }: { open: string; onGo: () => void }) {
  const navigate = useNavigate()
  return (
    <Button
      onClick={() => {
        onGo()
        void navigate({ to: '/sheet/$revisionId', params: { revisionId: open } })
      }}
    >
      Go to the first of them
    </Button>
  )
}
