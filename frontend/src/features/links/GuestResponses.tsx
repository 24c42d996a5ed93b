import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { GraveMark } from '../../ui/Grave'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { GuestHead } from './GuestHead'
import { GuestSheet } from './GuestSheet'
import { asGuest, type Entered, type Part } from './guestVisit'

type Comment = Part['comments'][number]

interface Props {
  visit: Entered
  part: Part
  /** Back to what is asked in a step, where something is. */
  onBack: (() => void) | undefined
  onSaid: () => Promise<void>
}

/** What was said of the documents of one's company, and the response to each. */
export function GuestResponses({ visit, part, onBack, onSaid }: Props) {
  const [shown, setShown] = useState('')
  const document = part.documents.find((each) => each.document_id === shown)
  if (document)
    return (
      <main className="flex h-dvh flex-col">
        <GuestHead part={part}>
          <Button small onClick={() => setShown('')}>
            Back to the comments
          </Button>
        </GuestHead>
        <GuestSheet visit={visit} part={part} document={document} />
      </main>
    )
  const wanted = part.comments.filter((each) => each.open && !each.response).length
  return (
    <main className="min-h-dvh">
      <GuestHead part={part}>
        {onBack && (
          <Button small onClick={onBack}>
            Back to {part.step}
          </Button>
        )}
      </GuestHead>
      <div className="mx-auto max-w-[860px] px-4 py-4">
        <p role="status" className="mb-3 text-read">
          {wanted
            ? `${counted(wanted, 'comment')} on your documents without a response yet.`
            : 'Every comment has your response. Thank you.'}
        </p>
        <ol aria-label="Comments" className="border-t border-line">
          {part.comments.map((each) => (
            <Line key={each.id} visit={visit} part={part} comment={each} onSheet={setShown} onSaid={onSaid} />
          ))}
        </ol>
      </div>
    </main>
  )
}

interface LineProps extends Omit<Props, 'onBack'> {
  comment: Comment
  onSheet: (documentId: string) => void
}

const stateOf = ({ open, response }: Comment) => {
  if (!open) return 'closed'
  return response ? 'responded' : 'open'
}

function Line({ visit, part, comment, onSheet, onSaid }: LineProps) {
  const document = part.documents.find((each) => each.document_id === comment.document_id)
  const where = [comment.page !== null && `page ${comment.page + 1}`, comment.place]
    .filter(Boolean)
    .join(', ')
  return (
    <li className="grid grid-cols-[30px_1fr] gap-x-2 border-b border-line py-2 text-list">
      <span className="text-head font-bold text-plum">{comment.number}</span>
      <div className="min-w-0">
        <p className="flex flex-wrap items-baseline gap-x-2">
          <GraveMark grave={comment.grave} />
          <button
            type="button"
            className="code inline-flex min-h-6 items-center text-plum underline"
            onClick={() => onSheet(comment.document_id)}
          >
            {document?.number} {document?.revision}
          </button>
          <span className="text-second">{where}</span>
          <span className="ml-auto font-semibold">{stateOf(comment)}</span>
        </p>
        <p className="text-read whitespace-pre-line">{comment.text}</p>
        <p className="text-note text-second">
          {comment.by.name} ({comment.by.company})
        </p>
        {comment.close_note && <p className="mt-1 border-l-2 border-spruce pl-2">{comment.close_note}</p>}
        {comment.open ? (
          <Respond visit={visit} comment={comment} onSaid={onSaid} />
        ) : (
          comment.response && (
            <p className="mt-1 border-l-2 border-slate pl-2 whitespace-pre-line">{comment.response}</p>
          )
        )}
      </div>
    </li>
  )
}

function Respond({ visit, comment, onSaid }: Pick<LineProps, 'visit' | 'comment' | 'onSaid'>) {
  const form = useKept('review-comment', `link ${comment.id}`, `comment ${comment.number}`)
  const [text, setText] = useField(form, 'text', comment.response)
  const respond = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/guest/review/comments/{comment_id}/respond', {
          params: { path: { comment_id: comment.id } },
          ...asGuest(visit),
          body: { version: comment.version, text },
        }),
      ),
    onSuccess: form.drop,
    // Also when somebody was faster: what is there now is shown, and what was typed stays.
    onSettled: onSaid,
  })
  const same = text.trim() === comment.response.trim()
  return (
    <form
      aria-label={`Respond: comment ${comment.number}`}
      className="mt-1.5 flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        respond.mutate()
      }}
    >
      <TextArea
        keep={form}
        label="Your response"
        rows={2}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <ErrorNote error={respond.error} />
      <div className="flex justify-end">
        <Button
          small
          look="act"
          type="submit"
          busy={respond.isPending}
          why={(!text.trim() && 'Say what your response is.') || (same && 'This is your response already.')}
        >
          Send the response
        </Button>
      </div>
    </form>
  )
}
