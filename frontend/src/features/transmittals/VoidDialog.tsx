import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Dialog } from '../../ui/Dialog'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'

function useVoiding(id: string, form: Kept, onDone: (draftId: string) => void) {
  const client = useQueryClient()
  const here = useHere()
  return useMutation({
    mutationFn: (body: Schemas['VoidTransmittal']) =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/transmittals/{transmittal_id}/void', {
            params: { path: { transmittal_id: id } },
            ...more,
            body,
          }),
        ),
      ),
    onSuccess: async ({ draft_id }) => {
      form.drop()
      // First: what is fetched then says that it is void, and takes the dialog away.
      here(() => onDone(draft_id))
      await fetchAnew(client, ['transmittals', 'transmittal', 'drafts', 'holders', 'desk', 'trail'])
    },
  })
}

interface Props {
  transmittal: Schemas['Transmittal']
  onClose: () => void
}

/** A mistake is voided: who is told, and what becomes of the links, is said before. */
export function VoidDialog({ transmittal: { line, recipients }, onClose }: Props) {
  const navigate = useNavigate()
  const form = useKept('void', line.id, line.number)
  const [reason, setReason] = useField(form, 'reason', '')
  const [replace, setReplace] = useField(form, 'replace', true)
  const act = useVoiding(line.id, form, (draft) => {
    onClose()
    if (draft) void navigate({ to: '/transmittals/new', search: { draft } })
  })
  const told = recipients.map((each) => each.who.name).join(', ')
  return (
    <Dialog
      open
      title={`Void ${line.number}`}
      about={`${told} ${recipients.length === 1 ? 'is' : 'are'} told by mail. The link says so, and gives nothing away any more.`}
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          act.mutate({ reason, replace })
        }}
      >
        <TextArea
          keep={form}
          label="Why it is void"
          rows={3}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <Checkbox
          label="prepare another in its place, with the same documents and people"
          checked={replace}
          onChange={setReplace}
        />
        <ErrorNote error={act.error} />
        <p className="text-second">This cannot be undone. What was sent stays in the log.</p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            look="stop"
            type="submit"
            busy={act.isPending}
            why={!reason.trim() && 'Say why first: its recipients are told.'}
          >
            Void it
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
