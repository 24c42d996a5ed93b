import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import type { CommentSheet } from './useComments'
import { useHere } from '../../ui/useHere'

type Contact = CommentSheet['may_ask'][number]

/** Authors without an account: what is open on documents that came from them is sent to them, with a link to respond. */
export function AskOutside({ sheet }: { sheet: CommentSheet }) {
  if (sheet.may_ask.length === 0) return null
  return (
    <section aria-label="Authors outside" className="border border-line px-3 py-2">
      <h3 className="text-read font-semibold">Authors outside</h3>
      <p className="mb-1 text-list text-second">
        They have no account. A mail brings them what is open on their documents, and a link to respond by;
        they see these documents and nothing else.
      </p>
      {sheet.may_ask.map((each) => (
        <OneContact key={each.who.id} reviewId={sheet.review_id} contact={each} />
      ))}
    </section>
  )
}

interface OneProps {
  reviewId: string
  contact: Contact
}

function OneContact({ reviewId, contact }: OneProps) {
  const [writes, setWrites] = useState(false)
  const [sent, setSent] = useState(false)
  return (
    <div className="border-t border-line py-1.5 text-list">
      <p className="flex flex-wrap items-center gap-2">
        <span className="font-medium">
          {contact.who.name} ({contact.who.company})
        </span>
        <span className="text-second">
          {counted(contact.open, 'open comment')}
          {contact.asked && (contact.unsent ? `, asked; ${contact.unsent} not sent yet` : ', asked')}
        </span>
        {!writes && (
          <Button
            small
            className="ml-auto"
            aria-label={`${contact.asked ? 'Ask again …' : 'Ask for a response …'} ${contact.who.name}`}
            onClick={() => setWrites(true)}
          >
            {contact.asked ? 'Ask again …' : 'Ask for a response …'}
          </Button>
        )}
      </p>
      {sent && !writes && (
        <p role="status" className="text-spruce">
          The mail is on its way.
        </p>
      )}
      {writes && (
        <Writing
          reviewId={reviewId}
          contact={contact}
          onSent={() => {
            setSent(true)
            setWrites(false)
          }}
          onLeave={() => setWrites(false)}
        />
      )}
    </div>
  )
}

function useAsk({ reviewId, contact }: OneProps, onSent: () => void) {
  const client = useQueryClient()
  const here = useHere()
  return useMutation({
    mutationFn: (message: string) =>
      unwrap(
        api.POST('/api/reviews/{review_id}/comments/ask', {
          params: { path: { review_id: reviewId } },
          body: { person_id: contact.who.id, message },
        }),
      ),
    onSuccess: () => here(onSent),
    onSettled: () => fetchAnew(client, ['review']),
  })
}

function Writing({ onSent, onLeave, ...one }: OneProps & { onSent: () => void; onLeave: () => void }) {
  const form = useKept('ask-responses', `${one.reviewId} ${one.contact.who.id}`, one.contact.who.name)
  const [message, setMessage] = useField(form, 'message', '')
  const ask = useAsk(one, () => {
    form.drop()
    onSent()
  })
  return (
    <form
      aria-label={`Ask ${one.contact.who.name}`}
      className="mt-1 flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        ask.mutate(message)
      }}
    >
      <TextArea
        keep={form}
        label="A word with it"
        rows={2}
        value={message}
        maxLength={2000}
        onChange={(event) => setMessage(event.target.value)}
      />
      <ErrorNote error={ask.error} />
      <div className="flex justify-end gap-2">
        <Button small onClick={onLeave}>
          Leave it
        </Button>
        <Button small look="act" type="submit" busy={ask.isPending}>
          Send what is open
        </Button>
      </div>
    </form>
  )
}
