import { useState } from 'react'

import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { GraveChoice, type Grave } from '../../ui/Grave'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { useCommentAct, type Comment } from './useComments'

type Written = 'respond' | 'close' | 'reopen'

const BUTTONS: Record<Written, [string, string, string]> = {
  respond: ['Respond', 'Your response', 'Send the response'],
  close: ['Close it', 'A word with it', 'Close the comment'],
  reopen: ['Open it again', 'Why', 'Open it again'],
}

/** What the viewer may do with a comment; the words that go with it are kept until they are sent. */
export function CommentActForm({ comment, reviewId }: { comment: Comment; reviewId: string }) {
  const [doing, setDoing] = useState<Written | null>(null)
  const act = useCommentAct(comment, () => setDoing(null))
  const open = (['respond', 'close', 'reopen'] as const).filter((each) => comment.may.includes(each))
  if (doing)
    return (
      <Writing
        key={doing}
        comment={comment}
        reviewId={reviewId}
        doing={doing}
        act={act}
        onLeave={() => setDoing(null)}
      />
    )
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-2">
      {open.map((each) => (
        <Button
          key={each}
          small
          aria-label={`${BUTTONS[each][0]}: comment ${comment.number}`}
          onClick={() => setDoing(each)}
        >
          {each === 'respond' && comment.response ? 'Respond anew' : BUTTONS[each][0]}
        </Button>
      ))}
      {comment.may.includes('grade') && (
        <GraveChoice
          label={`How grave comment ${comment.number} is`}
          value={comment.grave as Grave}
          onChange={(grave) => act.mutate({ act: 'grade', grave })}
        />
      )}
      <ErrorNote error={act.error} />
    </div>
  )
}

interface WritingProps {
  comment: Comment
  reviewId: string
  doing: Written
  act: ReturnType<typeof useCommentAct>
  onLeave: () => void
}

function Writing({ comment, reviewId, doing, act, onLeave }: WritingProps) {
  const form = useKept('review-comment', `${doing} ${comment.id}`, `comment ${comment.number}`)
  const [text, setText] = useField(form, 'text', doing === 'respond' ? comment.response : '')
  const [, label, button] = BUTTONS[doing]
  return (
    <form
      aria-label={`${BUTTONS[doing][0]}: comment ${comment.number}`}
      className="mt-1.5 flex flex-col gap-2"
      data-review={reviewId}
      onSubmit={(event) => {
        event.preventDefault()
        act.mutate({ act: doing, text }, { onSuccess: form.drop })
      }}
    >
      <TextArea
        keep={form}
        label={label}
        rows={2}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <ErrorNote error={act.error} />
      <div className="flex justify-end gap-2">
        <Button small onClick={onLeave}>
          Leave it
        </Button>
        <Button
          small
          look="act"
          type="submit"
          busy={act.isPending}
          why={doing === 'respond' && !text.trim() && 'Say what your response is.'}
        >
          {button}
        </Button>
      </div>
    </form>
  )
}
