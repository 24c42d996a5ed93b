import { useMutation } from '@tanstack/react-query'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextArea, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import type { DossierData } from './dossierData'
import { useReadAgain } from '../useRegister'
import { sendOnce, useField, useKept } from '../../../ui/useKept'
import { useHere } from '../../../ui/useHere'

interface Props {
  dossier: DossierData
  revision: DossierData['revisions'][number]
  onClose: () => void
}

function useBack({ dossier, revision, onClose }: Props) {
  const again = useReadAgain()
  const form = useKept('bring-revision-back', revision.id, dossier.line.number)
  const [code, setCode] = useField(form, 'code', dossier.next_revisions[0] ?? '')
  const [status, setStatus] = useField(form, 'status', dossier.next_status[0] ?? '')
  const [reason, setReason] = useField(form, 'reason', '')
  const here = useHere()
  const back = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/revisions/{revision_id}/bring-back', {
            ...more,
            params: { path: { revision_id: revision.id } },
            body: { version: dossier.line.version, code, status, reason },
          }),
        ),
      ),
    onSuccess: () => here(onClose),
    onSettled: again,
  })
  return { form, code, setCode, status, setStatus, reason, setReason, back }
}

/** An earlier revision's content becomes a new revision, with a note of where it came from. */
export function BringBackRevision({ dossier, revision, onClose }: Props) {
  const { project } = useSeat()
  const { form, code, setCode, status, setStatus, reason, setReason, back } = useBack({
    dossier,
    revision,
    onClose,
  })
  return (
    <Dialog
      title={`Bring ${revision.code} back`}
      about={`${dossier.line.number}: a new revision with the content of ${revision.code}, after ${dossier.line.revision}.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          back.mutate()
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <TextField
            keep={form}
            label="New revision"
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
          <Select
            label="Status"
            value={status}
            onChange={setStatus}
            choices={dossier.next_status.map((code) => ({
              code,
              words: `${code}  ${project.statuses[code] ?? ''}`,
            }))}
          />
        </div>
        <TextArea
          keep={form}
          label="Why"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <ErrorNote error={back.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="act" type="submit" busy={back.isPending} why={!code && 'Say the new revision first.'}>
            File as {code || '…'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
