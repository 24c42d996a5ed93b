import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select, TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useDiscard, useSendBack, useSenders, type Arrival } from './useIntake'
import { useField, useKept, type Kept } from '../../ui/useKept'

interface Props {
  batchId: string
  arrivals: readonly Arrival[]
  onClose: () => void
}

const sent = (form: Kept, onClose: () => void) => () => {
  form.drop()
  onClose()
}

function howMany(arrivals: readonly Arrival[]): string {
  return arrivals.length === 1 ? (arrivals[0]?.file_name ?? '') : counted(arrivals.length, 'file')
}

export function DiscardDialog({ batchId, arrivals, onClose }: Props) {
  const discard = useDiscard(batchId)
  const form = useKept('discard', batchId, howMany(arrivals))
  const [reason, setReason] = useField(form, 'reason', '')
  return (
    <Dialog
      title={arrivals.length === 1 ? 'Discard a file' : `Discard ${counted(arrivals.length, 'file')}`}
      about={howMany(arrivals)}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          discard.mutate({ arrivals, reason }, { onSuccess: sent(form, onClose) })
        }}
      >
        <p className="text-second">
          What is discarded leaves Intake and is not registered. The trail keeps who discarded it, and why.
        </p>
        <TextArea
          keep={form}
          label="Why"
          required
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <ErrorNote error={discard.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Keep</Button>
          <Button look="stop" type="submit" busy={discard.isPending} why={!reason.trim() && 'Say why first.'}>
            Discard
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

/** Shows what will be written to whom before it is sent: a letter cannot be taken back. */
export function SendBackDialog({ batchId, arrivals, onClose }: Props) {
  const sendBack = useSendBack(batchId)
  const senders = useSenders(batchId)
  const form = useKept('send-back', batchId, howMany(arrivals))
  const [chosen, setChosen] = useField(form, 'chosen', '')
  const [note, setNote] = useField(form, 'note', '')
  const people = senders.data?.people ?? []
  const personId = chosen || (people[0]?.id ?? '')
  return (
    <Dialog title="Send back" about={howMany(arrivals)} open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          sendBack.mutate({ form, arrivals, personId, note }, { onSuccess: onClose })
        }}
      >
        <Select
          label="To"
          value={personId}
          onChange={setChosen}
          choices={people.map((each) => ({
            code: each.id,
            words: `${each.name}, ${each.company}${each.job ? `, ${each.job}` : ''}`,
          }))}
        />
        <TextArea
          keep={form}
          label="Note (optional)"
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <Letter arrivals={arrivals} />
        <ErrorNote error={sendBack.error ?? senders.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Keep</Button>
          <Button
            look="act"
            type="submit"
            busy={sendBack.isPending}
            why={!personId && 'There is nobody to send to.'}
          >
            Send back {counted(arrivals.length, 'file')}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

/** What is written of each file. */
function Letter({ arrivals }: { arrivals: readonly Arrival[] }) {
  return (
    <section aria-label="What the mail lists" className="border border-line bg-paper px-3 py-2">
      <p className="text-note font-medium text-second">The mail lists</p>
      <ul className="max-h-56 overflow-auto text-list">
        {arrivals.map((each) => (
          <li key={each.id} className="mt-1">
            <span className="code">{each.file_name}</span>
            <ul className="ml-4 list-disc">
              {each.findings
                .filter((finding) => finding.weight === 'stop' || finding.weight === 'look')
                .map((finding) => (
                  <li key={finding.code + finding.words}>{finding.words}</li>
                ))}
            </ul>
          </li>
        ))}
      </ul>
    </section>
  )
}
