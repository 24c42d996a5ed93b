import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useFound, type FoundThing } from '../../ui/useFound'
import { useHere } from '../../ui/useHere'

const TALKED_ABOUT = ['document', 'letter', 'review', 'session', 'submittal', 'transmittal']

/** Where a held mail belongs: to something, where it is said as its sender’s answer, or to a thread of its own. */
export function FileDialog({ mail, onClose }: { mail: Schemas['MailRead']; onClose: () => void }) {
  const client = useQueryClient()
  const [words, setWords] = useState('')
  const [chosen, setChosen] = useState<FoundThing | null>(null)
  const { things: targets, none, error } = useFound(words, TALKED_ABOUT)
  const here = useHere()
  const file = useMutation({
    mutationFn: (to: { kind: string; target: string }) =>
      unwrap(
        api.POST('/api/mail/{mail_id}/file', {
          params: { path: { mail_id: mail.line.id } },
          body: { version: mail.version, kind: to.kind, target: to.target },
        }),
      ),
    onSuccess: () => here(onClose),
    onSettled: () =>
      fetchAnew(client, ['mailbox', 'mail', 'desk', 'talk', 'transmittal', 'letters', 'letter', 'submittal']),
  })
  return (
    <Dialog
      title="File it with"
      about="It is said there in its sender’s name, with its files. To a transmittal that was sent to them, it is their acknowledgement."
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          if (chosen) file.mutate(chosen)
        }}
      >
        <TextField
          keep="passing"
          label="Document, letter, review, submittal or transmittal"
          placeholder="Number or words of its title"
          value={words}
          onChange={(event) => {
            setWords(event.target.value)
            setChosen(null)
          }}
        />
        <ErrorNote error={error ?? file.error} />
        <Targets targets={targets} chosen={chosen} onChoose={setChosen} />
        {none && <p className="text-second">Nothing is called so.</p>}
        <Foot
          chosen={chosen !== null}
          busy={file.isPending}
          onClose={onClose}
          onBegin={() => file.mutate({ kind: '', target: '' })}
        />
      </form>
    </Dialog>
  )
}

interface FootProps {
  chosen: boolean
  busy: boolean
  onClose: () => void
  onBegin: () => void
}

function Foot({ chosen, busy, onClose, onBegin }: FootProps) {
  const { project } = useSeat()
  return (
    <div className="flex flex-wrap items-center justify-end gap-3">
      {project.tools.includes('letters') && (
        <Button className="mr-auto" busy={busy} onClick={onBegin}>
          As a new letter
        </Button>
      )}
      <Button onClick={onClose}>Cancel</Button>
      <Button look="act" type="submit" busy={busy} why={!chosen && 'Choose where it belongs first.'}>
        File it
      </Button>
    </div>
  )
}

interface TargetsProps {
  targets: FoundThing[]
  chosen: FoundThing | null
  onChoose: (target: FoundThing) => void
}

function Targets({ targets, chosen, onChoose }: TargetsProps) {
  return (
    <fieldset className="max-h-[280px] overflow-auto">
      <legend className="sr-only">Where it belongs</legend>
      {targets.map((each) => (
        <label
          key={each.target}
          className="flex items-baseline gap-2 border-b border-line/60 py-1.5 text-list"
        >
          <input
            type="radio"
            name="target"
            checked={chosen?.target === each.target}
            onChange={() => onChoose(each)}
          />
          <span className="code">{each.number}</span>
          <span className="min-w-0 truncate">{each.words}</span>
        </label>
      ))}
    </fieldset>
  )
}
