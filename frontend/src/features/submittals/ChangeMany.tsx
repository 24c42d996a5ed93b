import { useMutation } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Select, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { ACT, useAfterAct, type Details, type Line } from './useSubmittals'

interface Props {
  lines: readonly Line[]
  onDone: () => void
}

function useFields() {
  const form = useKept('submittal-act', 'edit many', 'several submittals')
  const [required, setRequired] = useField(form, 'required', '')
  const [lead, setLead] = useField(form, 'lead', '')
  const [approver, setApprover] = useField(form, 'approver', '')
  const [location, setLocation] = useField(form, 'location', '')
  const details: Details = {
    ...(required && { required_on: required }),
    ...(lead.trim() && { lead: Number(lead) }),
    ...(approver && { approver_id: approver }),
    ...(location.trim() && { location }),
  }
  const badLead = lead.trim() !== '' && !/^\d{1,3}$/.test(lead.trim())
  const why = badLead
    ? 'The lead time is a whole number.'
    : !Object.keys(details).length && 'Say what is to be changed.'
  return {
    ...{ form, details, why, required, setRequired, lead, setLead },
    ...{ approver, setApprover, location, setLocation },
  }
}

type Typed = ReturnType<typeof useFields>

function useChange({ lines, onDone }: Props, { form, details }: Typed) {
  const onSettled = useAfterAct()
  const here = useHere()
  const change = useMutation({
    mutationKey: ACT,
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/submittals/change', {
            ...more,
            body: { changes: lines.map(({ id, version }) => ({ id, version, details })) },
          }),
        ),
      ),
    onSettled,
  })
  const undo = useMutation({
    mutationKey: ACT,
    mutationFn: () =>
      unwrap(api.POST('/api/submittals/change', { body: { changes: change.data?.undo ?? [] } })),
    onSuccess: () => here(onDone),
    onSettled,
  })
  return { change, undo }
}

/** The same for several: who answers, when they are needed, how long they take. It can be undone from here. */
export function ChangeMany(props: Props) {
  const typed = useFields()
  const { change, undo } = useChange(props, typed)
  if (change.data)
    return (
      <div role="status" className="flex flex-col gap-3">
        <p>{counted(change.data.undo.length, 'submittal')} changed.</p>
        <ErrorNote error={undo.error} />
        <span className="flex gap-2">
          <Button look="act" onClick={props.onDone}>
            Good
          </Button>
          {change.data.undo.length > 0 && (
            <Button busy={undo.isPending} onClick={() => undo.mutate()}>
              Undo
            </Button>
          )}
        </span>
      </div>
    )
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (!typed.why) change.mutate()
      }}
    >
      <Fields typed={typed} />
      <ErrorNote error={change.error} />
      <Button look="act" type="submit" className="self-start" busy={change.isPending} why={typed.why}>
        Change them
      </Button>
    </form>
  )
}

function Fields({ typed }: { typed: Typed }) {
  const { form } = typed
  const { choices } = usePeopleToChoose(true)
  return (
    <>
      <DateField label="Required on site" keep={form} value={typed.required} onChange={typed.setRequired} />
      <TextField
        label="Lead time"
        keep={form}
        inputMode="numeric"
        value={typed.lead}
        onChange={(event) => typed.setLead(event.target.value)}
      />
      <Select
        label="Who is to answer"
        value={typed.approver}
        onChange={typed.setApprover}
        choices={[
          { code: '', words: 'as it is' },
          ...choices.map((each) => ({ code: each.key, words: `${each.words}, ${each.note}` })),
        ]}
      />
      <TextField
        label="Location"
        keep={form}
        value={typed.location}
        onChange={(event) => typed.setLocation(event.target.value)}
      />
    </>
  )
}
