import { useMutation } from '@tanstack/react-query'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextArea } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { StandingLine } from '../../../ui/RevisionStanding'
import { sendOnce, useField, useKept } from '../../../ui/useKept'
import { useReadAgain } from '../useRegister'
import type { DossierData } from './dossierData'
import { useHere } from '../../../ui/useHere'

interface Props {
  dossier: DossierData
  revision: DossierData['revisions'][number]
  onClose: () => void
}

function useStatus({ dossier, revision, onClose }: Props) {
  const again = useReadAgain()
  const form = useKept('set-status', revision.id, `${dossier.line.number} ${revision.code}`)
  const [status, setStatus] = useField(form, 'status', '')
  const [reason, setReason] = useField(form, 'reason', '')
  const here = useHere()
  const set = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/revisions/{revision_id}/status', {
            ...more,
            params: { path: { revision_id: revision.id } },
            body: { version: dossier.line.version, status, reason },
          }),
        ),
      ),
    onSuccess: () => here(onClose),
    onSettled: again,
  })
  return { form, status, setStatus, reason, setReason, set }
}

/** Another status for one revision: it is released by it, or its release is taken back. What follows is said first. */
export function SetStatus({ dossier, revision, onClose }: Props) {
  const { project } = useSeat()
  const { form, status, setStatus, reason, setReason, set } = useStatus({ dossier, revision, onClose })
  const chosen = revision.may_set.find((each) => each.status === status)
  return (
    <Dialog
      title={`The status of ${revision.code}`}
      about={`${dossier.line.number}, now ${revision.status} ${project.statuses[revision.status] ?? ''}.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          set.mutate()
        }}
      >
        <StandingLine standing={revision.standing} />
        <Select
          label="New status"
          value={status}
          onChange={setStatus}
          choices={[
            { code: '', words: 'choose one' },
            ...revision.may_set.map((each) => ({
              code: each.status,
              words: `${each.status}  ${project.statuses[each.status] ?? ''}, ${each.use}`,
            })),
          ]}
        />
        {chosen && <p role="status">{chosen.then}</p>}
        <TextArea
          keep={form}
          label="Why"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <ErrorNote error={set.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="act" type="submit" busy={set.isPending} why={!chosen && 'Choose a status first.'}>
            Set {status || 'the status'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
