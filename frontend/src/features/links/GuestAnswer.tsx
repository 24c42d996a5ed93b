import { useMutation } from '@tanstack/react-query'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextArea } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { ErrorNote } from '../../ui/Notes'
import { RestOfVerdicts } from '../../ui/RestOfVerdicts'
import { SayOnDocument } from '../../ui/SayOnDocument'
import type { useAnswersBy } from '../../ui/useBegunAnswers'
import { asGuest, type Entered, type Part } from './guestVisit'

interface Props {
  visit: Entered
  part: Part
  /** The place of the document that is looked at. */
  at: number
  answers: ReturnType<typeof useAnswersBy>
  onOpen: (place: number) => void
  onHandedIn: () => Promise<void>
}

/** The verdict's letters to press, a comment, the next document; and handing in when all is said. */
export function GuestAnswer(props: Props) {
  const { part, at, answers, onOpen } = props
  const [handsIn, setHandsIn] = useState(false)
  const id = part.documents[at]?.document_id ?? ''
  const last = at + 1 === part.documents.length
  if (part.state === 'taken')
    return (
      <Strip part={part} at={at} onOpen={onOpen}>
        <p role="status" className="text-read">
          {part.taken_by} has picked this step up: nothing is asked of you unless they put it down.
        </p>
      </Strip>
    )
  return (
    <Strip part={part} at={at} onOpen={onOpen}>
      <SayOnDocument
        answers={answers}
        stepId={part.step_id}
        documentId={id}
        verdicts={part.act === 'decide' ? part.verdict_set : []}
      >
        {!last && (
          <Button small look="act" onClick={() => onOpen(at + 1)}>
            Next
          </Button>
        )}
        <Button small look={last ? 'act' : 'quiet'} onClick={() => setHandsIn(true)}>
          Hand in …
        </Button>
      </SayOnDocument>
      <ErrorNote error={answers.error} />
      {handsIn && <HandIn {...props} onClose={() => setHandsIn(false)} />}
    </Strip>
  )
}

interface StripProps extends Pick<Props, 'part' | 'at' | 'onOpen'> {
  children: React.ReactNode
}

function Strip({ part, at, onOpen, children }: StripProps) {
  return (
    <section
      aria-label={`Your part in ${part.number}, ${part.step}`}
      className="flex shrink-0 items-start gap-x-4 gap-y-1 border-t-2 border-plum bg-surface px-3 py-1.5 text-list max-md:flex-col"
    >
      <p className="flex items-center gap-1 whitespace-nowrap">
        <IconButton
          label="The document before"
          disabled={at === 0}
          onClick={() => onOpen(at - 1)}
          icon={<ChevronLeft size={15} aria-hidden />}
        />
        <b>
          {at + 1} of {part.documents.length}
        </b>
        <IconButton
          label="The next document"
          disabled={at + 1 === part.documents.length}
          onClick={() => onOpen(at + 1)}
          icon={<ChevronRight size={15} aria-hidden />}
        />
      </p>
      <div className="flex w-full min-w-0 flex-1 flex-col gap-1">{children}</div>
    </section>
  )
}

/** What goes when all is handed in, and which documents have no verdict yet. */
function useHandIn({ visit, part, answers, onHandedIn }: Props) {
  const all = part.documents.map(({ document_id, revision_id }) => ({
    document_id,
    revision_id,
    ...answers.of(document_id),
  }))
  const open = part.act === 'decide' ? all.filter((each) => !each.verdict) : []
  const handIn = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/guest/review/steps/{step_id}/hand-in', {
          params: { path: { step_id: part.step_id } },
          ...asGuest(visit),
          body: { answers: all, note: answers.note },
        }),
      ),
    onSuccess: answers.form.drop,
    // Also when it was refused: it may have been handed in on another device, or before the line broke.
    onSettled: onHandedIn,
  })
  return { open, handIn }
}

/** All that was said goes at once, with a note. */
function HandIn({ onClose, ...props }: Props & { onClose: () => void }) {
  const { part, answers, onOpen } = props
  const { open, handIn } = useHandIn(props)
  const first = open[0]
  const still = open.length > 0 && `Still without a verdict: ${counted(open.length, 'document')}.`
  return (
    <Dialog
      title={`Hand in for ${part.step}`}
      about={`${part.number} ${part.name}: ${counted(part.documents.length, 'document')}. What is handed in stays as it is.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          handIn.mutate()
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
        <div className="flex justify-end gap-2">
          {first && (
            <Button
              onClick={() => {
                onClose()
                onOpen(part.documents.findIndex((each) => each.document_id === first.document_id))
              }}
            >
              Go to the first of them
            </Button>
          )}
          <Button look="act" type="submit" busy={handIn.isPending} why={answers.notYet || still}>
            {part.act === 'decide' ? 'Hand in verdicts' : 'Hand in comments'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
