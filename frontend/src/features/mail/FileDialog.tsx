import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'

interface Target {
  kind: string
  target: string
  number: string
  words: string
}

const TALKED_ABOUT = ['document', 'transmittal', 'review']

function targetsIn(found: Schemas['Found'] | undefined): Target[] {
  if (!found) return []
  const documents = found.documents.map((each) => ({
    kind: 'document',
    target: each.document_id,
    number: each.number,
    words: each.title,
  }))
  const others = found.others.flatMap((group) =>
    group.things
      .filter((each) => TALKED_ABOUT.includes(each.kind))
      .map((each) => ({
        kind: each.kind,
        target: each.target,
        number: each.number,
        words: `${each.kind_words} ${each.words.replace(each.number, '').trim()}`.trim(),
      })),
  )
  return [...others, ...documents]
}

function useTargets(words: string) {
  const { project } = useSeat()
  const asked = words.trim().length > 1
  const found = useQuery({
    queryKey: ['find', project.id, words],
    queryFn: () =>
      unwrap(api.GET('/api/search', { params: { query: { project_id: project.id, words, limit: 8 } } })),
    enabled: asked,
    placeholderData: (previous) => previous,
  })
  const targets = asked ? targetsIn(found.data) : []
  return { targets, none: asked && found.data !== undefined && !targets.length, error: found.error }
}

/** To which document, review or transmittal a held mail belongs; there it is said as its sender's answer. */
export function FileDialog({ mail, onClose }: { mail: Schemas['MailRead']; onClose: () => void }) {
  const client = useQueryClient()
  const [words, setWords] = useState('')
  const [chosen, setChosen] = useState<Target | null>(null)
  const { targets, none, error } = useTargets(words)
  const here = useHere()
  const file = useMutation({
    mutationFn: (to: Target) =>
      unwrap(
        api.POST('/api/mail/{mail_id}/file', {
          params: { path: { mail_id: mail.line.id } },
          body: { version: mail.version, kind: to.kind, target: to.target },
        }),
      ),
    onSuccess: () => here(onClose),
    onSettled: () => fetchAnew(client, ['mailbox', 'mail', 'desk', 'talk', 'transmittal']),
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
          label="Document, review or transmittal"
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
        <div className="flex items-center justify-end gap-3">
          {!chosen && <span className="text-list text-second">Find where it belongs and choose it.</span>}
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="act"
            type="submit"
            busy={file.isPending}
            why={!chosen && 'Choose where it belongs first.'}
          >
            File it
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

interface TargetsProps {
  targets: Target[]
  chosen: Target | null
  onChoose: (target: Target) => void
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
