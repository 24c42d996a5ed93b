import { useMutation } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { asGuest, ZONE, type Entered, type GuestSent } from './guestVisit'

interface Props {
  visit: Entered
  it: GuestSent
  onDone: () => Promise<void>
}

/** That one has it: said once, with a word for the sender if there is one. */
export function GuestReceipt({ visit, it, onDone }: Props) {
  const form = useKept('guest-receipt', visit.guest, it.number)
  const [note, setNote] = useField(form, 'note', '')
  const acknowledge = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/guest/transmittal/acknowledge', { body: { note }, ...asGuest(visit) })),
    onSuccess: () => form.drop(),
    onSettled: onDone,
  })
  if (it.acknowledged_at)
    return (
      <div role="status" className="mb-5">
        <p className="font-semibold text-spruce">
          Acknowledged {fullInstant(it.acknowledged_at, ZONE)}. Thank you.
        </p>
        {it.acknowledged_note && (
          <p className="border-l-2 border-line pl-3 whitespace-pre-line">“{it.acknowledged_note}”</p>
        )}
      </div>
    )
  return (
    <form
      aria-label="Acknowledge"
      className="mb-5 max-w-[76ch] border border-line bg-surface p-3"
      onSubmit={(event) => {
        event.preventDefault()
        acknowledge.mutate()
      }}
    >
      <TextArea
        keep={form}
        label="A note with it, if there is something to say"
        rows={2}
        value={note}
        onChange={(event) => setNote(event.target.value)}
        hint={
          <p className="mt-0.5 text-note text-second">
            It goes to {it.sent_by.name}; other recipients do not see it.
          </p>
        }
      />
      <ErrorNote error={acknowledge.error} />
      <Button className="mt-2" look="act" type="submit" busy={acknowledge.isPending}>
        Acknowledge that I have it
      </Button>
    </form>
  )
}
