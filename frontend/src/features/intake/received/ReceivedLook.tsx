import { useState } from 'react'

import { dayText } from '../../../domain/dates'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextArea } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { When } from '../../../ui/Standing'
import { useHere } from '../../../ui/useHere'
import { useField, useKept } from '../../../ui/useKept'
import { useSenders } from '../useIntake'
import { ReceivedLines } from './ReceivedLines'
import { useReceipt, useRemoveReceived, type Received } from './useReceived'

interface Props {
  one: Received
  onChange: () => void
  /** A batch can come with two. */
  onAnother: () => void
  onClose: () => void
}

/** One transmittal that came in: what it says of itself, how far that is proven, its list, and the receipt. */
export function ReceivedLook(props: Props) {
  const { one, onClose } = props
  const [writing, setWriting] = useState(false)
  const about = [one.person, one.dated && `of ${dayText(one.dated, '')}`, one.purpose]
  return (
    <Dialog
      open
      wide
      title={`${one.number} of ${one.company}`}
      about={about.filter(Boolean).join(' · ')}
      onClose={onClose}
    >
      <div className="flex flex-col gap-3">
        {one.note && <p className="whitespace-pre-wrap">{one.note}</p>}
        <Proof one={one} />
        {writing ? (
          <Receipt one={one} onClose={() => setWriting(false)} />
        ) : (
          <>
            <ReceivedLines lines={one.lines} more={one.more} />
            <Acts {...props} onReceipt={() => setWriting(true)} />
          </>
        )}
      </div>
    </Dialog>
  )
}

function Acts({ one, onChange, onAnother, onClose, onReceipt }: Props & { onReceipt: () => void }) {
  const remove = useRemoveReceived(one)
  const here = useHere()
  const settled = one.receipt_at !== null && 'A receipt for it was sent: it stays as it was then.'
  return (
    <>
      <ErrorNote error={remove.error} />
      <div className="flex flex-wrap items-center justify-end gap-2">
        <span className="mr-auto text-list text-second">
          {one.receipt_at && one.receipt_to ? (
            <>
              A receipt went to {one.receipt_to.name}, <When at={one.receipt_at} time />.
            </>
          ) : (
            'No receipt was sent yet.'
          )}
        </span>
        <Button onClick={onAnother}>Enter another</Button>
        <Button
          why={settled}
          busy={remove.isPending}
          onClick={() => remove.mutate(undefined, { onSuccess: () => here(onClose) })}
        >
          Take it away
        </Button>
        <Button
          why={settled || (one.from_bag && 'What its bag says is its sender’s word.')}
          onClick={onChange}
        >
          Change
        </Button>
        <Button look="act" why={one.receipt_at !== null && 'A receipt was sent already.'} onClick={onReceipt}>
          Send a receipt
        </Button>
      </div>
    </>
  )
}

/** Whether what came in a bag is what was sent, and whether its sender has said so in their trail. */
function Proof({ one }: { one: Received }) {
  if (!one.from_bag) return null
  return (
    <section aria-label="What is proven">
      <p className={one.faults.length ? 'font-semibold text-brick' : 'font-semibold text-spruce'}>
        {one.faults.length
          ? 'It is not as it was sent, or not proven.'
          : one.proven
            ? 'Its files are those that were sent, and its sending is proven.'
            : 'Its files are those that were sent.'}
      </p>
      <ul className="text-list text-brick">
        {one.faults.map((each) => (
          <li key={each}>{each}</li>
        ))}
      </ul>
      <p className="text-list break-words text-second">{one.proof}</p>
    </section>
  )
}

/** What the mail says is seen before it goes: it cannot be taken back. */
function Receipt({ one, onClose }: { one: Received; onClose: () => void }) {
  const form = useKept('receipt', one.id, one.number)
  const senders = useSenders(one.batch_id)
  const [chosen, setChosen] = useField(form, 'chosen', '')
  const [note, setNote] = useField(form, 'note', '')
  const send = useReceipt(one, form)
  const people = senders.data?.people ?? []
  const likely = people.find((each) => each.name === one.person) ?? people[0]
  const personId = chosen || (likely?.id ?? '')
  return (
    <form
      aria-label="A receipt"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        send.mutate({ person_id: personId, note }, { onSuccess: onClose })
      }}
    >
      <Select
        label="To"
        value={personId}
        onChange={setChosen}
        choices={people.map((each) => ({ code: each.id, words: `${each.name}, ${each.company}` }))}
      />
      <section aria-label="What the mail says" className="border border-line bg-paper px-3 py-2 text-list">
        <p className="text-note font-medium text-second">The mail says</p>
        <p className="whitespace-pre-wrap">{one.says.join('\n')}</p>
      </section>
      <TextArea
        keep={form}
        label="Note (optional)"
        rows={2}
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <ErrorNote error={send.error ?? senders.error} />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          look="act"
          type="submit"
          busy={send.isPending}
          why={!personId && 'There is nobody to send it to.'}
        >
          Send the receipt
        </Button>
      </div>
    </form>
  )
}
