import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { useHere } from '../../ui/useHere'

interface Props {
  transmittalId: string
  recipient: Schemas['RecipientShown']
  onClose: () => void
}

function useSending({ transmittalId, recipient, onClose }: Props, form: Kept, email: string) {
  const client = useQueryClient()
  const here = useHere()
  return useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/transmittals/{transmittal_id}/recipients/{person_id}/send-again', {
            ...more,
            params: { path: { transmittal_id: transmittalId, person_id: recipient.who.id } },
            body: { email },
          }),
        ),
      ),
    onSuccess: () => here(onClose),
    onSettled: () => fetchAnew(client, ['transmittal', 'transmittals', 'mailbox', 'people']),
  })
}

/** The mail goes out once more; another address is the contact's from then on. */
export function SendAgainDialog({ transmittalId, recipient, onClose }: Props) {
  const form = useKept('send-again', `${transmittalId} ${recipient.who.id}`, recipient.who.name)
  const [email, setEmail] = useField(form, 'email', recipient.email)
  const send = useSending({ transmittalId, recipient, onClose }, form, email)
  return (
    <Dialog
      title={`Send it to ${recipient.who.name} again`}
      about={
        recipient.outside
          ? 'Another address becomes theirs, for all that is sent to them.'
          : 'They have an account: a steward changes their address in the workspace’s people.'
      }
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          send.mutate()
        }}
      >
        <TextField
          keep={form}
          label="E-mail address"
          type="email"
          value={email}
          readOnly={!recipient.outside}
          onChange={(event) => setEmail(event.target.value)}
        />
        <ErrorNote error={send.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="act"
            type="submit"
            busy={send.isPending}
            why={!email.trim() && 'Say the address first.'}
          >
            Send again
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
