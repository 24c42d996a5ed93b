import { useState } from 'react'

import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useDiscard, type Arrival } from './useIntake'

interface Props {
  batchId: string
  arrival: Arrival
  onClose: () => void
}

export function DiscardDialog({ batchId, arrival, onClose }: Props) {
  const discard = useDiscard(batchId)
  const [reason, setReason] = useState('')
  return (
    <Dialog title="Discard a file" about={arrival.file_name} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          discard.mutate({ arrival, reason }, { onSuccess: onClose })
        }}
      >
        <p className="text-second">
          It leaves Intake and is not registered. The trail keeps who discarded it, and why.
        </p>
        <TextArea label="Why" required value={reason} onChange={(event) => setReason(event.target.value)} />
        <ErrorNote error={discard.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Keep it</Button>
          <Button look="stop" type="submit" disabled={!reason.trim() || discard.isPending}>
            Discard
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
