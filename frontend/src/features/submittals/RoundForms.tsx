import { useMutation } from '@tanstack/react-query'
import { type ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { AnswerVerdict, useVerdict } from '../../ui/AnswerVerdict'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Select, TextArea } from '../../ui/Field'
import { FilesToSend } from '../../ui/FilesToSend'
import { ErrorNote } from '../../ui/Notes'
import { Day } from '../../ui/Standing'
import { filesWhy } from '../../domain/filesWhy'
import { useAttaching } from '../../ui/useAttaching'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { useRoutes } from '../../ui/useRoutes'
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

const ROUTE = 'route:'

/** Gives it to somebody to answer, or onto a route; the day follows from the contract, or from the review days. */
export function Give(props: Props) {
  const { submittal } = props
  const round = useRound('give', props)
  const { choices, error } = usePeopleToChoose(true)
  const routes = useRoutes()
  const [to, setTo] = useField(round.form, 'person', submittal.approver?.id ?? '')
  const startable = (routes.data ?? []).filter((each) => each.may_start)
  const route = startable.find((each) => `${ROUTE}${each.id}` === to)
  const others = choices.filter((each) => each.note !== submittal.line.company)
  return (
    <Shape
      round={round}
      button="Give it on"
      why={!to && 'Choose who is to answer.'}
      onSend={() =>
        round.mutation.mutate((more) =>
          to.startsWith(ROUTE)
            ? unwrap(
                api.POST('/api/submittals/{submittal_id}/give-to-route', {
                  ...more,
                  ...round.path,
                  body: { version: round.version, route_id: to.slice(ROUTE.length), note: round.note },
                }),
              )
            : unwrap(
                api.POST('/api/submittals/{submittal_id}/give', {
                  ...more,
                  ...round.path,
                  body: { version: round.version, person_id: to, note: round.note },
                }),
              ),
        )
      }
    >
      <Select
        label="Who is to answer"
        value={to}
        onChange={setTo}
        choices={[
          { code: '', words: 'Choose …' },
          ...others.map((each) => ({ code: each.key, words: `${each.words}, ${each.note}` })),
          ...startable.map((each) => ({ code: `${ROUTE}${each.id}`, words: `The route ${each.name}` })),
        ]}
      />
      {route && <RoutePath route={route} />}
      <ErrorNote error={error ?? routes.error} />
    </Shape>
  )
}

/** Who is asked on it, and what its outcome does. */
function RoutePath({ route }: { route: Schemas['RouteShown'] }) {
  const steps = route.stages.flatMap((stage) => stage.steps)
  return (
    <p className="text-list text-second">
      {steps.map((step) => step.name).join(', then ')}: until{' '}
      <Day
        on={
          steps
            .map((step) => step.planned_on)
            .sort()
            .at(-1) ?? null
        }
      />{' '}
      if all are in time. Its files go round as they are in the register, and the outcome of the review
      answers it: the gravest verdict counts.
    </p>
  )
}

/** A verdict, and what it is about attached; or what the one who was asked has answered another way. */
export function Answer({ onBehalf = false, ...props }: Props & { onBehalf?: boolean }) {
  const { submittal } = props
  const round = useRound(onBehalf ? 'answer for' : 'answer', props)
  const choosing = useVerdict(round.form, submittal)
  const { said, chosen } = choosing
  const { version, files, note } = round
  return (
    <Shape
      round={round}
      button={onBehalf ? 'Enter the answer' : 'Answer'}
      why={!chosen ? 'Choose a verdict.' : filesWhy(round.attaching, 'Attach what is answered.')}
      onSend={() =>
        round.mutation.mutate((more) =>
          unwrap(
            api.POST('/api/submittals/{submittal_id}/answer', {
              ...more,
              ...round.path,
              body: { version, note, files, ...said, on_behalf: onBehalf },
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
      <AnswerVerdict name={submittal.line.id} choosing={choosing} />
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

/** Of which lot, where it comes in lots, and on which day. */
function useDelivered({ form }: Round, { line, lots }: Submittal) {
  const [lotId, setLotId] = useField(form, 'lot', '')
  const [typed, setDay] = useField<string | null>(form, 'day', null)
  const lot = lots.find((each) => each.id === lotId) ?? lots.find((each) => !each.delivered_on) ?? lots[0]
  const there = (lot ? lot.delivered_on : line.delivered_on) ?? ''
  const setLot = (id: string) => {
    setLotId(id)
    setDay(null)
  }
  return { lot, setLot, there, day: typed ?? there, setDay }
}

/** When it was on site: the clock ends with that. */
export function Delivered(props: Props) {
  const { lots } = props.submittal
  const round = useRound('deliver', props)
  const { lot, setLot, there, day, setDay } = useDelivered(round, props.submittal)
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
              body: { version: round.version, lot_id: lot?.id ?? '', delivered_on: day || null },
            }),
          ),
        )
      }}
    >
      {lot && (
        <Select
          label="Which lot"
          value={lot.id}
          onChange={setLot}
          choices={lots.map((each) => ({ code: each.id, words: each.name }))}
        />
      )}
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
        why={day === there && (day ? 'It says so already.' : 'Say on which day.')}
      >
        {day || !there ? 'It was delivered' : 'It was not delivered'}
      </Button>
      <ErrorNote error={round.mutation.error} />
    </form>
  )
}
