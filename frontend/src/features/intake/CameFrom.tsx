import { useId, useState } from 'react'

import { dayText } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Select, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { useChangeBatch, type Batch } from './useIntake'
import { useTellable } from './useTellable'

const WAYS = [
  { code: '', words: 'not said' },
  { code: 'mail', words: 'by mail' },
  { code: 'hand', words: 'by hand' },
  { code: 'drive', words: 'from a drive' },
  { code: 'system', words: 'from another system' },
]

/** From whom the files came: what was said, or what Nod takes from the numbers until somebody says it. */
export function CameFrom({ batch }: { batch: Batch }) {
  const { came, line } = batch
  const [open, setOpen] = useState(false)
  const form = useKept('came-from', line.id, `From ${came.company}`)
  const shown = open || form.draft !== null
  const way = WAYS.find((each) => each.code && each.code === came.by)
  return (
    <div className="min-w-0">
      <h1 className="text-head font-semibold">From {came.company}</h1>
      <p className="flex flex-wrap items-center gap-x-2 text-list text-second">
        {came.said ? (
          <span>{[came.person, way?.words, dayText(came.on, '')].filter(Boolean).join(', ')}</span>
        ) : (
          <span className="text-ochre">
            {came.why ? `${came.why}.` : 'Nobody has said from whom they came.'}
          </span>
        )}
        {!shown && (
          <Button small onClick={() => setOpen(true)}>
            {came.said ? 'Change' : 'Say from whom'}
          </Button>
        )}
      </p>
      {shown && <CameForm batch={batch} form={form} onClose={() => setOpen(false)} />}
    </div>
  )
}

interface FormProps {
  batch: Batch
  form: ReturnType<typeof useKept>
  onClose: () => void
}

function CameForm({ batch, form, onClose }: FormProps) {
  const { came, line } = batch
  const change = useChangeBatch(line.id)
  const tellable = useTellable()
  const [company, setCompany] = useField(form, 'company', came.company)
  const [person, setPerson] = useField(form, 'person', came.person)
  const [by, setBy] = useField(form, 'by', came.by)
  const [on, setOn] = useField(form, 'on', came.on)
  const lists = useId()
  const done = () => {
    form.drop()
    onClose()
  }
  const of = tellable.data?.companies.find((each) => each.name === company)?.key
  const people = tellable.data?.people.filter((each) => !of || each.company_id === of) ?? []
  return (
    <form
      aria-label="From whom"
      className="mt-1 flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        const said = { company, person, by, on }
        change.mutate(
          { folder_id: line.folder_id, keep_tree: line.keep_tree, came: said },
          { onSuccess: done },
        )
      }}
    >
      <TextField
        keep={form}
        label="Company"
        required
        list={`${lists}-companies`}
        className="w-[200px]"
        value={company}
        onChange={(event) => setCompany(event.target.value)}
      />
      <TextField
        keep={form}
        label="Person (optional)"
        list={`${lists}-people`}
        className="w-[160px]"
        value={person}
        onChange={(event) => setPerson(event.target.value)}
      />
      <Select label="How" className="w-[150px]" value={by} onChange={setBy} choices={WAYS} />
      <DateField keep={form} label="On" className="w-[140px]" value={on} onChange={setOn} />
      <Button look="act" type="submit" busy={change.isPending}>
        Keep
      </Button>
      <Button onClick={done}>Leave</Button>
      <Names id={`${lists}-companies`} names={tellable.data?.companies ?? []} />
      <Names id={`${lists}-people`} names={people} />
      <ErrorNote error={change.error} />
    </form>
  )
}

/** What is offered while one types. */
function Names({ id, names }: { id: string; names: readonly { name: string }[] }) {
  return (
    <datalist id={id}>
      {names.map((each) => (
        <option key={each.name} value={each.name} />
      ))}
    </datalist>
  )
}
