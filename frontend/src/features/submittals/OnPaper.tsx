import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { download } from '../../api/download'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { Dialog } from '../../ui/Dialog'
import { Select, TextArea, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { usePeople, usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { ACT, useActing, useAfterAct, type Submittal } from './useSubmittals'

/** It on paper: to take, or to send to whom one chooses. */
export function OnPaper({ submittal }: { submittal: Submittal }) {
  const { line } = submittal
  const [sends, setSends] = useState(false)
  const [sent, setSent] = useState(0)
  return (
    <section aria-label="On paper" className="flex flex-wrap items-center gap-2">
      <Button small onClick={() => download(`/api/submittals/${line.id}/record`)}>
        PDF
      </Button>
      {line.may.includes('send on') && (
        <Button small onClick={() => setSends(true)}>
          Send it by mail …
        </Button>
      )}
      {sent > 0 && (
        <span role="status" className="text-list text-spruce">
          Sent to {counted(sent, 'person', 'people')}.
        </span>
      )}
      {sends && (
        <Dialog
          open
          title={`Send ${line.shown} by mail`}
          about="As a PDF with its details, the clock, its rounds, what was said, and its trail, as you see it now. The trail says to whom it went."
          onClose={() => setSends(false)}
        >
          <SendOn
            submittal={submittal}
            onDone={(people) => {
              setSent(people)
              setSends(false)
            }}
          />
        </Dialog>
      )}
    </section>
  )
}

interface Anew {
  email: string
  name: string
  company_id: string
}

const NOBODY: Anew = { email: '', name: '', company_id: '' }

function whyNot(people: readonly string[], anew: Anew): string | false {
  if (anew.email.trim()) return !anew.company_id && 'Say for which company they work.'
  return !people.length && 'Choose to whom it goes.'
}

interface ElseProps {
  form: Kept
  anew: Anew
  onChange: (anew: Anew) => void
}

/** Somebody who becomes an outside contact of the project with this. */
function SomebodyElse({ form, anew, onChange }: ElseProps) {
  const people = usePeople()
  const companies = people.data?.companies ?? []
  return (
    <>
      <TextField
        label="Somebody else, by e-mail"
        type="email"
        keep={form}
        value={anew.email}
        onChange={(event) => onChange({ ...anew, email: event.target.value })}
      />
      {anew.email.trim() && (
        <div className="flex flex-wrap gap-2">
          <TextField
            label="Name"
            keep={form}
            className="min-w-[140px] flex-1"
            value={anew.name}
            onChange={(event) => onChange({ ...anew, name: event.target.value })}
          />
          <Select
            label="Their company"
            className="min-w-[140px] flex-1"
            value={anew.company_id}
            onChange={(id) => onChange({ ...anew, company_id: id })}
            choices={[
              { code: '', words: 'Choose …' },
              ...companies.map((each) => ({ code: each.id, words: each.name })),
            ]}
          />
        </div>
      )}
    </>
  )
}

interface Props {
  submittal: Submittal
  onDone: (people: number) => void
}

function SendOn({ submittal, onDone }: Props) {
  const { line } = submittal
  const form = useKept('submittal-act', `send on ${line.id}`, line.shown)
  const [people, setPeople] = useField<string[]>(form, 'people', [])
  const [note, setNote] = useField(form, 'note', '')
  const [anew, setAnew] = useField<Anew>(form, 'anew', NOBODY)
  const { choices, error } = usePeopleToChoose(true)
  const { project } = useSeat()
  const onSettled = useAfterAct()
  const here = useHere()
  const acting = useActing()
  const send = useMutation({
    mutationKey: ACT,
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/submittals/{submittal_id}/send-on', {
            ...more,
            params: { path: { submittal_id: line.id } },
            body: { people, note, ...(anew.email.trim() && { contact: anew }) },
          }),
        ),
      ),
    onSuccess: (answer) => here(() => onDone(answer.people)),
    onSettled,
  })
  const why = whyNot(people, anew)
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (!why && !acting) send.mutate()
      }}
    >
      <ChooseMany
        label="To"
        choices={choices}
        chosen={people}
        onChange={setPeople}
        placeholder="People, and outside contacts"
      />
      {project.runs && <SomebodyElse form={form} anew={anew} onChange={setAnew} />}
      <TextArea label="A note" keep={form} value={note} onChange={(event) => setNote(event.target.value)} />
      <ErrorNote error={error ?? send.error} />
      <Button look="act" type="submit" className="self-start" busy={acting} why={why}>
        Send
      </Button>
    </form>
  )
}
