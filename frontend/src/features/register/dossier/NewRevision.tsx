import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import { putFile } from '../../../api/putFile'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextArea, TextField } from '../../../ui/Field'
import { ErrorNote, Weight } from '../../../ui/Notes'
import type { DossierData } from './dossierData'
import { useReadAgain } from '../useRegister'
import { useField, useKept } from '../../../ui/useKept'
import { useHere } from '../../../ui/useHere'

type Begun = Schemas['RevisionBegun']
type Batch = Schemas['Batch']

interface Said {
  revision: string
  status: string
  purpose: string
  note: string
}

async function send(documentId: string, file: File, said: Said): Promise<Begun> {
  const query = new URLSearchParams({ name: file.name, ...said })
  return await putFile<Begun>(`/api/documents/${documentId}/revision?${query}`, file)
}

/** What is in force stays so until the new one is released. */
function inForceWords({ line }: DossierData): string {
  return line.in_force
    ? `${line.in_force} stays in force until the new one is released, by its status or by a review.`
    : 'Nothing is in force.'
}

/** The next revision: the file is checked as everything in Intake is; what was found stands before it is filed. */
export function NewRevision({ dossier, onClose }: { dossier: DossierData; onClose: () => void }) {
  const { project } = useSeat()
  const mine = dossier.may.includes('put_back')
  const [file, setFile] = useState<File | null>(null)
  const form = useKept('new-revision', dossier.line.id, dossier.line.number)
  const [said, setSaid] = useField<Said>(form, 'said', {
    revision: dossier.next_revisions[0] ?? '',
    status: dossier.next_status[0] ?? '',
    purpose: '',
    note: '',
  })
  const begin = useMutation({ mutationFn: (chosen: File) => send(dossier.line.id, chosen, said) })
  const put = (part: Partial<Said>) => setSaid({ ...said, ...part })
  const title = mine ? `Check ${dossier.line.number} in` : `A new revision of ${dossier.line.number}`
  return (
    <Dialog
      title={title}
      about={`${dossier.line.revision} is the latest. ${inForceWords(dossier)}`}
      open
      onClose={onClose}
    >
      {begin.data ? (
        <Checked
          begun={begin.data}
          code={said.revision}
          onClose={() => {
            form.drop()
            onClose()
          }}
        />
      ) : (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            if (file) begin.mutate(file)
          }}
        >
          <div>
            <label htmlFor="revision-file" className="mb-0.5 block text-note font-medium text-second">
              File
            </label>
            <input
              id="revision-file"
              type="file"
              required
              className="w-full text-list file:mr-3 file:h-8 file:rounded-[3px] file:border file:border-line file:bg-surface file:px-3"
              onChange={(event) => setFile(event.target.files?.[0] ?? null)}
            />
          </div>
          <div className="grid grid-cols-2 gap-3">
            <div>
              <TextField
                keep={form}
                label="Revision"
                value={said.revision}
                onChange={(event) => put({ revision: event.target.value })}
              />
              <p className="mt-0.5 flex gap-1.5 text-note text-second">
                Next:
                {dossier.next_revisions.map((code) => (
                  <button
                    key={code}
                    type="button"
                    className="code text-plum underline"
                    onClick={() => put({ revision: code })}
                  >
                    {code}
                  </button>
                ))}
              </p>
            </div>
            <Select
              label="Status"
              value={said.status}
              onChange={(status) => put({ status })}
              choices={dossier.next_status.map((each) => ({
                code: each,
                words: `${each}  ${project.statuses[each] ?? ''}`,
              }))}
            />
          </div>
          <TextField
            keep={form}
            label="Purpose"
            value={said.purpose}
            onChange={(event) => put({ purpose: event.target.value })}
          />
          <TextArea
            keep={form}
            label="Comment"
            value={said.note}
            onChange={(event) => put({ note: event.target.value })}
          />
          <ErrorNote error={begin.error} />
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button look="act" type="submit" busy={begin.isPending} why={!file && 'Choose its file first.'}>
              {begin.isPending ? 'Sending …' : 'Check the file'}
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  )
}

/** What was found about the file, and the act that files it. */
function Checked({ begun, code, onClose }: { begun: Begun; code: string; onClose: () => void }) {
  const again = useReadAgain()
  const batch = useQuery({
    queryKey: ['batch', begun.batch_id],
    queryFn: () =>
      unwrapAs<Batch>(
        api.GET('/api/intake/batches/{batch_id}', { params: { path: { batch_id: begun.batch_id } } }),
      ),
    refetchInterval: (query) => {
      const arrival = query.state.data?.arrivals[0]
      return arrival && !arrival.looking ? false : 400
    },
  })
  const arrival = batch.data?.arrivals.find((each) => each.id === begun.arrival_id)
  const here = useHere()
  const register = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/intake/batches/{batch_id}/register', {
          params: { path: { batch_id: begun.batch_id } },
          body: { note: '', set_id: '', new_set: '', seen: { [begun.arrival_id]: arrival?.version ?? 0 } },
        }),
      ),
    onSettled: () => {
      again()
      void batch.refetch()
    },
    onSuccess: (done) => {
      if (done.outcomes[0]?.result === 'registered') here(onClose)
    },
  })
  const stopped = arrival?.findings.some((each) => each.weight === 'stop' || each.weight === 'same') ?? false
  return (
    <div className="flex flex-col gap-3">
      {!arrival || arrival.looking ? (
        <p role="status" className="text-second">
          Nod is looking into the file …
        </p>
      ) : (
        <>
          <p className="truncate font-medium">{arrival.file_name}</p>
          <ul className="flex flex-col gap-1.5" aria-label="Findings">
            {arrival.findings.length === 0 && (
              <li>
                <Weight weight="fine" /> Nothing stands against it.
              </li>
            )}
            {arrival.findings.map((finding, place) => (
              <li key={place} className="flex gap-2">
                <Weight weight={finding.weight} />
                <span>{finding.words}</span>
              </li>
            ))}
          </ul>
          {stopped && (
            <p className="text-second">
              It waits in Intake, where it can be put right, sent back or discarded.{' '}
              <Link
                to="/intake/$batchId"
                params={{ batchId: begun.batch_id }}
                className="text-plum underline"
              >
                Go there
              </Link>
            </p>
          )}
        </>
      )}
      <ErrorNote error={batch.error ?? register.error} />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>{stopped ? 'Close' : 'Leave it in Intake'}</Button>
        {!stopped && (
          <Button
            look="act"
            busy={register.isPending}
            why={(!arrival || arrival.looking) && 'Nod is still looking into the file.'}
            onClick={() => register.mutate()}
          >
            File {code}
          </Button>
        )}
      </div>
    </div>
  )
}
