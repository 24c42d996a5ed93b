import { useMutation } from '@tanstack/react-query'

import { api, unwrap } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { TextArea, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import type { DossierData } from './dossierData'
import { useReadAgain } from '../useRegister'
import { useField, useKept } from '../../../ui/useKept'
import { useHere } from '../../../ui/useHere'

interface Wording {
  title: string
  about: string
  ask: string
  button: string
  stop?: boolean
  wanted?: boolean
}

const ON_COPY: Record<string, Wording> = {
  withdraw: {
    title: 'Take the copy out',
    about:
      'It leaves the list of this folder and, as all that is withdrawn, stays readable where one has its address. Its document stays as it is. The next revision that a review copies here takes its place.',
    ask: 'Why',
    button: 'Take it out',
    stop: true,
    wanted: true,
  },
  bring_back: {
    title: 'Put the copy back',
    about: 'It lies in this folder again as it did.',
    ask: '',
    button: 'Put it back',
  },
}

function wording(act: string, { line, checked_out_by }: DossierData): Wording {
  const { number } = line
  const holder = checked_out_by?.name ?? ''
  const all: Record<string, Wording> = {
    check_out: {
      title: `Check ${number} out`,
      about: 'Until you check it in or put it back, others read it and file no revision.',
      ask: 'What you are working on',
      button: 'Check out',
    },
    put_back: {
      title: `Put ${number} back`,
      about: 'Without a new revision. Others can file one again.',
      ask: '',
      button: 'Put back',
    },
    break_check_out: {
      title: 'Break the check-out',
      about: `${holder} is told by mail, with your reason. Others can file a revision of ${number} again.`,
      ask: 'Why',
      button: 'Break it',
      stop: true,
      wanted: true,
    },
    withdraw: {
      title: `Withdraw ${number}`,
      about: 'It leaves the lists and stays readable for ever. It can be brought back.',
      ask: 'Why',
      button: 'Withdraw',
      stop: true,
      wanted: true,
    },
    bring_back: {
      title: `Bring ${number} back`,
      about: 'It stands in the register again as it was.',
      ask: '',
      button: 'Bring back',
    },
    rename: {
      title: 'Rename the number',
      about: `${number} will still find it, and no other document gets it.`,
      ask: 'Why',
      button: 'Rename',
      wanted: true,
    },
  }
  return (line.is_copy ? ON_COPY[act] : all[act]) ?? { title: '', about: '', ask: '', button: '' }
}

/** An act with a word of why. */
export function ActDialog({
  act,
  dossier,
  onClose,
}: {
  act: string
  dossier: DossierData
  onClose: () => void
}) {
  const { line } = dossier
  const again = useReadAgain()
  const form = useKept('document-act', `${act} ${line.id}`, line.number)
  const [words, setWords] = useField(form, 'words', '')
  const [number, setNumber] = useField(form, 'number', line.number)
  const said = wording(act, dossier)
  const path = { document_id: line.id }
  const { version } = line
  const here = useHere()
  const run = useMutation({
    mutationFn: async (): Promise<unknown> => {
      const params = { path }
      if (act === 'check_out')
        return unwrap(
          api.POST('/api/documents/{document_id}/check-out', { params, body: { version, note: words } }),
        )
      if (act === 'put_back' || act === 'break_check_out')
        return unwrap(
          api.POST('/api/documents/{document_id}/end-check-out', {
            params,
            body: { version, reason: words },
          }),
        )
      if (act === 'withdraw')
        return unwrap(
          api.POST('/api/documents/{document_id}/withdraw', { params, body: { version, reason: words } }),
        )
      if (act === 'bring_back')
        return unwrap(api.POST('/api/documents/{document_id}/bring-back', { params, body: { version } }))
      return unwrap(
        api.POST('/api/documents/{document_id}/rename', { params, body: { version, number, reason: words } }),
      )
    },
    onSuccess: () => {
      form.drop()
      here(onClose)
    },
    onSettled: again,
  })
  return (
    <Dialog title={said.title} about={said.about} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          run.mutate()
        }}
      >
        {act === 'rename' && (
          <TextField
            keep={form}
            label="New number"
            className="code"
            value={number}
            onChange={(event) => setNumber(event.target.value)}
          />
        )}
        {said.ask && (
          <TextArea
            keep={form}
            label={said.ask}
            required={Boolean(said.wanted)}
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
        )}
        <ErrorNote error={run.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            look={said.stop ? 'stop' : 'act'}
            type="submit"
            busy={
              run.isPending ||
              (said.wanted && !words.trim()) ||
              (act === 'rename' && number.trim() === line.number)
            }
          >
            {said.button}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
