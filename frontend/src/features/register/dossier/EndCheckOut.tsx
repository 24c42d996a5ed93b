import { useMutation } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { TextArea } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useReadAgain } from '../useRegister'
import { useField, useKept } from '../../../ui/useKept'
import { useHere } from '../../../ui/useHere'

/** Puts one's own back, or breaks another's with a reason that its holder reads. */
export function EndCheckOut({ line, onClose }: { line: Schemas['CheckOutLine']; onClose: () => void }) {
  const again = useReadAgain()
  const form = useKept('end-check-out', line.document_id, line.number)
  const [reason, setReason] = useField(form, 'reason', '')
  const here = useHere()
  const end = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/documents/{document_id}/end-check-out', {
          params: { path: { document_id: line.document_id } },
          body: { version: line.version, reason },
        }),
      ),
    onSuccess: () => {
      form.drop()
      here(onClose)
    },
    onSettled: again,
  })
  return (
    <Dialog
      title={line.mine ? `Put ${line.number} back` : 'Break the check-out'}
      about={line.mine ? 'Without a new revision.' : `${line.by.name} is told by mail, with your reason.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          end.mutate()
        }}
      >
        {!line.mine && (
          <TextArea
            keep={form}
            label="Why"
            required
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        )}
        <ErrorNote error={end.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            look={line.mine ? 'act' : 'stop'}
            type="submit"
            busy={end.isPending}
            why={!line.mine && !reason.trim() && 'Say why first: whoever has it is told.'}
          >
            {line.mine ? 'Put back' : 'Break it'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
