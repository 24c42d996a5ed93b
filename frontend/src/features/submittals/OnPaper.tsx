import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { download } from '../../api/download'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { Dialog } from '../../ui/Dialog'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'
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

interface Props {
  submittal: Submittal
  onDone: (people: number) => void
}

function SendOn({ submittal, onDone }: Props) {
  const { line } = submittal
  const form = useKept('submittal-act', `send on ${line.id}`, line.shown)
  const [people, setPeople] = useField<string[]>(form, 'people', [])
  const [note, setNote] = useField(form, 'note', '')
  const { choices, error } = usePeopleToChoose(true)
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
            body: { people, note },
          }),
        ),
      ),
    onSuccess: (answer) => here(() => onDone(answer.people)),
    onSettled,
  })
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (people.length && !acting) send.mutate()
      }}
    >
      <ChooseMany
        label="To"
        choices={choices}
        chosen={people}
        onChange={setPeople}
        placeholder="People, and outside contacts"
      />
      <TextArea label="A note" keep={form} value={note} onChange={(event) => setNote(event.target.value)} />
      <ErrorNote error={error ?? send.error} />
      <Button
        look="act"
        type="submit"
        className="self-start"
        busy={acting}
        why={!people.length && 'Choose to whom it goes.'}
      >
        Send
      </Button>
    </form>
  )
}
