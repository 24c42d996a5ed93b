import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { Button } from '../../ui/Button'
import { Select, TextArea, TextField } from '../../ui/Field'
import { GRAVES, type Grave } from '../../ui/Grave'
import { ErrorNote } from '../../ui/Notes'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import type { CommentSheet } from './useComments'
import { useSettled } from './useReviews'
import { useHere } from '../../ui/useHere'

/** A comment beside what one hands in; for whoever has a part in a running review. */
export function AddComment({ sheet }: { sheet: CommentSheet }) {
  const [open, setOpen] = useState(false)
  if (sheet.may_add_on.length === 0) return null
  if (!open)
    return (
      <Button small className="self-start" onClick={() => setOpen(true)}>
        Add a comment
      </Button>
    )
  return <Form sheet={sheet} onClose={() => setOpen(false)} />
}

/** What is typed of a new comment, kept over reloads. */
function useAdding(sheet: CommentSheet, onClose: () => void) {
  const settled = useSettled()
  const form = useKept('review-comment', `new ${sheet.review_id}`, sheet.number)
  const [document, setDocument] = useField(form, 'document', '')
  const [grave, setGrave] = useField<Grave>(form, 'grave', 'should')
  const [place, setPlace] = useField(form, 'place', '')
  const [text, setText] = useField(form, 'text', '')
  const documentId = document || (sheet.may_add_on[0]?.document_id ?? '')
  const here = useHere()
  const add = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/reviews/{review_id}/comments', {
            ...more,
            params: { path: { review_id: sheet.review_id } },
            body: { document_id: documentId, text, grave, place },
          }),
        ),
      ),
    onSuccess: () => here(onClose),
    onSettled: settled,
  })
  return { form, documentId, setDocument, grave, setGrave, place, setPlace, text, setText, add }
}

function Form({ sheet, onClose }: { sheet: CommentSheet; onClose: () => void }) {
  const adding = useAdding(sheet, onClose)
  const { form, text, add } = adding
  return (
    <form
      aria-label="A new comment"
      className="flex flex-col gap-2 border border-line bg-surface px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault()
        add.mutate()
      }}
    >
      <Which sheet={sheet} adding={adding} />
      <TextField
        keep={form}
        label="Where"
        placeholder="at line 4"
        value={adding.place}
        onChange={(event) => adding.setPlace(event.target.value)}
      />
      <TextArea
        keep={form}
        label="Comment"
        rows={2}
        value={text}
        onChange={(event) => adding.setText(event.target.value)}
      />
      <ErrorNote error={add.error} />
      <div className="flex justify-end gap-2">
        <Button small onClick={onClose}>
          Leave it
        </Button>
        <Button
          small
          look="act"
          type="submit"
          busy={add.isPending}
          why={!text.trim() && 'Say what the comment is.'}
        >
          Add the comment
        </Button>
      </div>
    </form>
  )
}

function Which({ sheet, adding }: { sheet: CommentSheet; adding: ReturnType<typeof useAdding> }) {
  return (
    <div className="grid grid-cols-2 gap-2 max-md:grid-cols-1">
      <Select
        label="Document"
        value={adding.documentId}
        onChange={adding.setDocument}
        choices={sheet.may_add_on.map((each) => ({ code: each.document_id, words: each.number }))}
      />
      <Select
        label="How grave"
        value={adding.grave}
        onChange={(next) => adding.setGrave(next as Grave)}
        choices={GRAVES}
      />
    </div>
  )
}
