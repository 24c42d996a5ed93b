import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextArea, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import type { DossierData } from './dossierData'
import { useReadAgain } from '../useRegister'

interface Props {
  dossier: DossierData
  revision: DossierData['revisions'][number]
  onClose: () => void
}

/** An earlier revision's content becomes a new revision, with a note of where it came from. */
export function BringBackRevision({ dossier, revision, onClose }: Props) {
  const { project } = useSeat()
  const again = useReadAgain()
  const [code, setCode] = useState(dossier.next_revisions[0] ?? '')
  const [status, setStatus] = useState(dossier.next_status[0] ?? '')
  const [reason, setReason] = useState('')
  const back = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/revisions/{revision_id}/bring-back', {
          params: { path: { revision_id: revision.id } },
          body: { version: dossier.line.version, code, status, reason },
        }),
      ),
    onSuccess: onClose,
    onSettled: again,
  })
  return (
    <Dialog
      title={`Bring ${revision.code} back`}
      about={`${dossier.line.number}: a new revision with the content of ${revision.code}; ${dossier.line.revision} becomes superseded.`}
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
          <TextField label="New revision" value={code} onChange={(event) => setCode(event.target.value)} />
          <Select
            label="Status"
            value={status}
            onChange={setStatus}
            choices={dossier.next_status.map((each) => ({
              code: each,
              words: `${each}  ${project.statuses[each] ?? ''}`,
            }))}
          />
        </div>
        <TextArea label="Why" value={reason} onChange={(event) => setReason(event.target.value)} />
        <ErrorNote error={back.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="act" type="submit" disabled={!code || back.isPending}>
            File as {code || '…'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
