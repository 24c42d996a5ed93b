import { useState } from 'react'

import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select, TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { HandInForm } from './HandInForm'
import {
  useNewcomers,
  useStepActs,
  useStepChange,
  type Review,
  type SlipStep,
  type StepChange,
} from './useReviews'

/** What the viewer may do in a step that runs: take it, answer in it, give it away. */
export function StepActs({ review, step }: { review: Review; step: SlipStep }) {
  const acts = useStepActs(review, step)
  const { mine } = step
  return (
    <>
      <ErrorNote error={acts.pickUp.error ?? acts.putDown.error} />
      {(mine.may_pick_up || mine.may_put_down) && (
        <div className="flex flex-wrap items-center gap-2">
          {mine.may_pick_up && (
            <Button look="act" busy={acts.pickUp.isPending} onClick={() => acts.pickUp.mutate()}>
              {review.slip.filter((each) => each.mine.may_pick_up).length > 1
                ? `Pick up ${step.name}`
                : 'Pick up'}
            </Button>
          )}
          {mine.may_put_down && (
            <Button busy={acts.putDown.isPending} onClick={() => acts.putDown.mutate()}>
              Put down
            </Button>
          )}
          <p className="text-second">
            {mine.may_pick_up
              ? 'Pick it up first, so that nobody does it twice.'
              : 'It is with you. Others see that you have it.'}
          </p>
        </div>
      )}
      {mine.may_hand_in && <HandInForm review={review} step={step} acts={acts} />}
      <Changes review={review} step={step} />
    </>
  )
}

const CHANGES = {
  'hand-on': {
    act: (step: SlipStep) => `Hand ${step.name} on`,
    title: (step: SlipStep) => `Hand on your place in ${step.name}`,
    about: 'It is theirs from then on; the slip says for whom.',
    why: 'Note to them (optional)',
  },
  'put-in': {
    act: (step: SlipStep) => `Put somebody in for ${step.name}`,
    title: (step: SlipStep) => `Put somebody in for ${step.name}`,
    about: 'They are told at once; the slip says for whom they stand.',
    why: 'Why',
  },
  end: {
    act: (step: SlipStep) => `End ${step.name}`,
    title: (step: SlipStep) => `End ${step.name} as it stands`,
    about: 'What was handed in counts; nobody else is asked in it any more.',
    why: 'Why',
  },
} as const

type Kind = keyof typeof CHANGES

function Changes({ review, step }: { review: Review; step: SlipStep }) {
  const [open, setOpen] = useState<Kind | null>(null)
  const { may_hand_on, may_put_in, may_end } = step.mine
  const may = { 'hand-on': may_hand_on, 'put-in': may_put_in, end: may_end }
  const kinds = (Object.keys(CHANGES) as Kind[]).filter((kind) => may[kind])
  if (!kinds.length) return null
  return (
    <div className="flex flex-wrap gap-2">
      {kinds.map((kind) => (
        <Button key={kind} small look={kind === 'end' ? 'stop' : 'quiet'} onClick={() => setOpen(kind)}>
          {CHANGES[kind].act(step)}
        </Button>
      ))}
      {open && (
        <Dialog
          title={CHANGES[open].title(step)}
          about={CHANGES[open].about}
          open
          onClose={() => setOpen(null)}
        >
          <ChangeForm kind={open} review={review} step={step} onDone={() => setOpen(null)} />
        </Dialog>
      )}
    </div>
  )
}

interface FormProps {
  kind: Kind
  review: Review
  step: SlipStep
  onDone: () => void
}

function useChange({ kind, review, step, onDone }: FormProps) {
  const form = useKept('step-change', `${review.id} ${step.id} ${kind}`, review.number)
  const [gone, setGone] = useField(
    form,
    'gone',
    step.places.find((each) => each.state === 'asked')?.who.id ?? '',
  )
  const [person, setPerson] = useField(form, 'person', '')
  const [note, setNote] = useField(form, 'note', '')
  const change = useStepChange(review, step)
  function send() {
    const what: StepChange =
      kind === 'put-in'
        ? { kind, gone, person, note }
        : kind === 'hand-on'
          ? { kind, person, note }
          : { kind, note }
    change.mutate(what, {
      onSuccess: () => {
        form.drop()
        onDone()
      },
    })
  }
  return { form, gone, setGone, person, setPerson, note, setNote, change, send }
}

function ChangeForm(props: FormProps) {
  const { kind, step, review } = props
  const { form, gone, setGone, person, setPerson, note, setNote, change, send } = useChange(props)
  const wantsPerson = kind !== 'end'
  const others = useNewcomers(review, step, wantsPerson)
  const asked = step.places.filter((each) => each.state === 'asked')
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        send()
      }}
    >
      {kind === 'put-in' && (
        <Select
          label="For whom"
          value={gone}
          onChange={setGone}
          choices={[
            ...asked.map((each) => ({ code: each.who.id, words: each.who.name })),
            { code: '', words: 'nobody, beside the others' },
          ]}
        />
      )}
      {wantsPerson && (
        <Select
          label="Who"
          value={person}
          onChange={setPerson}
          choices={[
            { code: '', words: others.isPending ? 'looking who could …' : 'choose somebody' },
            ...(others.data ?? []).map((each) => ({
              code: each.id,
              words: `${each.name} (${each.company})`,
            })),
          ]}
        />
      )}
      <TextArea
        keep={form}
        label={CHANGES[kind].why}
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <ErrorNote error={change.error ?? others.error} />
      <div className="flex justify-end">
        <Button
          look={kind === 'end' ? 'stop' : 'act'}
          type="submit"
          busy={change.isPending}
          why={whyNot(kind, person, note)}
        >
          {CHANGES[kind].act(step)}
        </Button>
      </div>
    </form>
  )
}

function whyNot(kind: Kind, person: string, note: string) {
  if (kind !== 'end' && !person) return 'Choose somebody first.'
  return kind !== 'hand-on' && !note.trim() && 'Say why first.'
}
