import { useMutation } from '@tanstack/react-query'
import { type ReactNode } from 'react'

import { api, unwrap } from '../../api/client'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Select, TextArea } from '../../ui/Field'
import { FilesToSend } from '../../ui/FilesToSend'
import { ErrorNote } from '../../ui/Notes'
import { filesWhy } from '../../domain/filesWhy'
import { useAttaching } from '../../ui/useAttaching'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { VerdictLetters } from '../../ui/VerdictLetters'
import { ACT, useActing, useAfterAct, type Submittal } from './useSubmittals'

interface Props {
  submittal: Submittal
  onDone: () => void
}

type Once = Parameters<Parameters<typeof sendOnce>[1]>[0]

/** What all acts of a round share: their note, their files, their sending. */
function useRound(act: string, { submittal, onDone }: Props) {
  const { line } = submittal
  const form = useKept('submittal-act', `${act} ${line.id} ${line.revision}`, line.shown)
  const [note, setNote] = useField(form, 'note', '')
  const attaching = useAttaching(form, { kind: 'submittal', target: line.id })
  const onSettled = useAfterAct()
  const here = useHere()
  const mutation = useMutation({
    mutationKey: ACT,
    mutationFn: (send: (more: Once) => Promise<unknown>) => sendOnce(form, send),
    onSuccess: () => here(onDone),
    onSettled,
  })
  return {
    form,
    note,
    setNote,
    attaching,
    mutation,
    files: attaching.there.map((each) => each.id),
    path: { params: { path: { submittal_id: line.id } } },
    version: line.version,
  }
}

type Round = ReturnType<typeof useRound>

interface ShapeProps {
  round: Round
  button: string
  why: string | false
  onSend: () => void
  children?: ReactNode
}

function Shape({ round, button, why, onSend, children }: ShapeProps) {
  const acting = useActing()
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (!why && !acting) onSend()
      }}
    >
      {children}
      <TextArea
        label="A note"
        keep={round.form}
        value={round.note}
        onChange={(event) => round.setNote(event.target.value)}
      />
      <ErrorNote error={round.mutation.error} />
      <Button look="act" type="submit" className="self-start" busy={acting} why={why}>
        {button}
      </Button>
    </form>
  )
}

/** Sends in what was prepared. */
export function SendIn(props: Props) {
  const round = useRound('send in', props)
  const { version, files, note } = round
  return (
    <Shape
      round={round}
      button="Send it in"
      why={filesWhy(round.attaching, 'Attach what you send in.')}
      onSend={() =>
        round.mutation.mutate((more) =>
          unwrap(
            api.POST('/api/submittals/{submittal_id}/send-in', {
              ...more,
              ...round.path,
              body: { version, note, files },
            }),
          ),
        )
      }
    >
      <FilesToSend attaching={round.attaching} label="Choose files" />
    </Shape>
  )
}

/** Gives it to somebody to answer; the day follows from the contract, or from the review days. */
export function Give(props: Props) {
  const { submittal } = props
  const round = useRound('give', props)
  const { choices, error } = usePeopleToChoose(true)
  const [person, setPerson] = useField(round.form, 'person', submittal.approver?.id ?? '')
  const others = choices.filter((each) => each.note !== submittal.line.company)
  return (
    <Shape
      round={round}
      button="Give it on"
      why={!person && 'Choose who is to answer.'}
      onSend={() =>
        round.mutation.mutate((more) =>
          unwrap(
            api.POST('/api/submittals/{submittal_id}/give', {
              ...more,
              ...round.path,
              body: { version: round.version, person_id: person, note: round.note },
            }),
          ),
        )
      }
    >
      <Select
        label="Who is to answer"
        value={person}
        onChange={setPerson}
        choices={[
          { code: '', words: 'Choose …' },
          ...others.map((each) => ({ code: each.key, words: `${each.words}, ${each.note}` })),
        ]}
      />
      <ErrorNote error={error} />
    </Shape>
  )
}

/** A verdict, and what it is about attached; or what the one who was asked has answered another way. */
export function Answer({ onBehalf = false, ...props }: Props & { onBehalf?: boolean }) {
  const { submittal } = props
  const round = useRound(onBehalf ? 'answer for' : 'answer', props)
  const [verdict, setVerdict] = useField(round.form, 'verdict', '')
  const chosen = submittal.verdicts.find((each) => each.code === verdict)
  const { version, files, note } = round
  return (
    <Shape
      round={round}
      button={onBehalf ? 'Enter the answer' : 'Answer'}
      why={!verdict ? 'Choose a verdict.' : filesWhy(round.attaching, 'Attach what is answered.')}
      onSend={() =>
        round.mutation.mutate((more) =>
          unwrap(
            api.POST('/api/submittals/{submittal_id}/answer', {
              ...more,
              ...round.path,
              body: { version, verdict, note, files, on_behalf: onBehalf },
            }),
          ),
        )
      }
    >
      {onBehalf && (
        <p className="text-list">
          {submittal.approver?.name} answered another way: attach it as evidence. The trail says that you
          entered it.
        </p>
      )}
      <VerdictLetters
        name={submittal.line.id}
        label="The verdict"
        verdicts={submittal.verdicts}
        chosen={verdict}
        onChoose={setVerdict}
      />
      {chosen?.needs_new_revision && (
        <p className="text-list text-second">Revision {submittal.line.revision + 1} is asked for at once.</p>
      )}
      <FilesToSend attaching={round.attaching} label={onBehalf ? 'Choose the evidence' : 'Choose files'} />
    </Shape>
  )
}

/** The official answer goes out to those who have a part in it. */
export function Close(props: Props) {
  const round = useRound('close', props)
  return (
    <Shape
      round={round}
      button="Close it"
      why={false}
      onSend={() =>
        round.mutation.mutate((more) =>
          unwrap(
            api.POST('/api/submittals/{submittal_id}/close', {
              ...more,
              ...round.path,
              body: { version: round.version, note: round.note },
            }),
          ),
        )
      }
    />
  )
}

/** When it was on site: the clock ends with that. */
export function Delivered(props: Props) {
  const { line } = props.submittal
  const round = useRound('deliver', props)
  const [day, setDay] = useField(round.form, 'day', line.delivered_on ?? '')
  const acting = useActing()
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        round.mutation.mutate((more) =>
          unwrap(
            api.POST('/api/submittals/{submittal_id}/delivered', {
              ...more,
              ...round.path,
              body: { version: round.version, delivered_on: day || null },
            }),
          ),
        )
      }}
    >
      <DateField
        label="Delivered to site"
        keep={round.form}
        value={day}
        onChange={setDay}
        className="w-[180px]"
      />
      <Button
        type="submit"
        busy={acting}
        why={day === (line.delivered_on ?? '') && (day ? 'It says so already.' : 'Say on which day.')}
      >
        {day || !line.delivered_on ? 'It was delivered' : 'It was not delivered'}
      </Button>
      <ErrorNote error={round.mutation.error} />
    </form>
  )
}
