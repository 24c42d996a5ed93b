import { useMutation } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Dialog } from '../../ui/Dialog'
import { Select, TextArea, TextField } from '../../ui/Field'
import { ErrorNote, Loading } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { usePeople, usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { EMPTY, detailsOf, fieldsOf, wholeNumbers, type Fields } from './detailFields'
import { ACT, useActing, useAfterAct, useSubmittalChoices, type Submittal } from './useSubmittals'

interface MakeProps {
  onClose: () => void
  onMade: (id: string) => void
}

/** Writes down what is to be sent in; `onMade` also closes it. */
export function MakeSubmittal({ onClose, onMade }: MakeProps) {
  const { project } = useSeat()
  const choices = useSubmittalChoices()
  return (
    <Dialog
      open
      wide
      title="New submittal"
      about="What is to be sent in, by which company, and when it is needed on site. Nobody is asked for it yet."
      onClose={onClose}
    >
      <ErrorNote error={choices.error} again={() => void choices.refetch()} />
      {choices.data ? (
        <Make key={project.id} onMade={onMade} begins={choices.data} />
      ) : (
        <Loading what="the kinds of submittals" />
      )}
    </Dialog>
  )
}

interface FormProps {
  onMade: (id: string) => void
  begins: { review: number; preparation: number }
}

function Make({ onMade, begins }: FormProps) {
  const { project } = useSeat()
  const kept = useKept('submittal', `new ${project.id}`, 'a new submittal')
  const start = { ...EMPTY, review: String(begins.review), preparation: String(begins.preparation) }
  const [fields, setFields] = useField<Fields>(kept, 'fields', start)
  const onSettled = useAfterAct()
  const here = useHere()
  const make = useMutation({
    mutationFn: () =>
      sendOnce(kept, (more) =>
        unwrap(
          api.POST('/api/submittals', {
            ...more,
            body: { project_id: project.id, number: fields.number, details: detailsOf(fields) },
          }),
        ),
      ),
    onSuccess: ({ id }) => here(() => onMade(id)),
    onSettled,
  })
  return (
    <DetailsFields
      kept={kept}
      fields={fields}
      onFields={setFields}
      isNew
      onSend={() => make.mutate()}
      foot={
        <>
          <ErrorNote error={make.error} />
          <Button look="act" type="submit" className="self-start" busy={make.isPending} why={whyNot(fields)}>
            Make it
          </Button>
        </>
      }
    />
  )
}

/** What is known of one, to be changed. */
export function EditDetails({ submittal, onClose }: { submittal: Submittal; onClose: () => void }) {
  const { line } = submittal
  const kept = useKept('submittal', line.id, line.shown)
  const [fields, setFields] = useField<Fields>(kept, 'fields', fieldsOf(submittal))
  const onSettled = useAfterAct()
  const acting = useActing()
  const here = useHere()
  const change = useMutation({
    mutationKey: ACT,
    mutationFn: () =>
      sendOnce(kept, (more) =>
        unwrap(
          api.POST('/api/submittals/change', {
            ...more,
            body: { changes: [{ id: line.id, version: line.version, details: detailsOf(fields) }] },
          }),
        ),
      ),
    onSuccess: () => here(onClose),
    onSettled,
  })
  return (
    <Dialog
      open
      wide
      title={`Change ${line.shown}`}
      about="The dates that follow are worked out anew."
      onClose={onClose}
    >
      <DetailsFields
        kept={kept}
        fields={fields}
        onFields={setFields}
        onSend={() => change.mutate()}
        foot={
          <>
            <ErrorNote error={change.error} />
            <Button look="act" type="submit" className="self-start" busy={acting} why={whyNot(fields)}>
              Change it
            </Button>
          </>
        }
      />
    </Dialog>
  )
}

function whyNot(fields: Fields): string | false {
  if (fields.title.trim().length < 2) return 'Give it a title.'
  if (!fields.kind) return 'Choose its kind.'
  if (!fields.company) return 'Say which company is responsible for it.'
  return wholeNumbers(fields)
}

interface FieldsProps {
  kept: Kept
  fields: Fields
  onFields: (fields: Fields) => void
  isNew?: boolean
  onSend: () => void
  foot: ReactNode
}

function DetailsFields({ kept, fields, onFields, isNew = false, onSend, foot }: FieldsProps) {
  const put = (part: Partial<Fields>) => onFields({ ...fields, ...part })
  const text = (field: keyof Fields, label: string, hint?: string) => (
    <TextField
      label={label}
      keep={kept}
      value={fields[field]}
      placeholder={hint}
      onChange={(event) => put({ [field]: event.target.value })}
    />
  )
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        if (!whyNot(fields)) onSend()
      }}
    >
      <div className="grid grid-cols-[2fr_1fr_1fr] gap-3 max-sm:grid-cols-1">
        {text('title', 'Title')}
        <KindField fields={fields} put={put} />
        {isNew ? text('number', 'Number, if it has one', 'the next one') : text('reference', 'Reference')}
      </div>
      <div className="grid grid-cols-4 gap-3 max-sm:grid-cols-2">
        <CompanyField fields={fields} put={put} />
        <ApproverField fields={fields} put={put} />
        {text('section', 'Section', '35 59 13')}
        {text('paragraph', 'Paragraph', '2.02.A')}
      </div>
      <Times fields={fields} put={put} kept={kept} />
      <TextArea
        label="What is wanted"
        keep={kept}
        value={fields.description}
        onChange={(event) => put({ description: event.target.value })}
      />
      <div className="grid grid-cols-2 gap-3">
        {text('category', 'Category')}
        {text('location', 'Location')}
        {text('milestone', 'Milestone in the schedule')}
      </div>
      {foot}
    </form>
  )
}

interface PartProps {
  fields: Fields
  put: (part: Partial<Fields>) => void
}

function KindField({ fields, put }: PartProps) {
  const choices = useSubmittalChoices()
  const kinds = choices.data?.kinds ?? []
  return (
    <Select
      label="Kind"
      value={fields.kind}
      onChange={(kind) => put({ kind })}
      choices={[
        { code: '', words: 'Choose …' },
        ...kinds.map((each) => ({
          code: each.code,
          words: each.for_information ? `${each.words}, for information` : each.words,
        })),
      ]}
    />
  )
}

function CompanyField({ fields, put }: PartProps) {
  const people = usePeople()
  const companies = people.data?.companies ?? []
  return (
    <Select
      label="Responsible company"
      value={fields.company}
      onChange={(company) => put({ company })}
      choices={[
        { code: '', words: 'Choose …' },
        ...companies.map((each) => ({ code: each.id, words: each.name })),
      ]}
    />
  )
}

function ApproverField({ fields, put }: PartProps) {
  const { choices } = usePeopleToChoose(true)
  return (
    <Select
      label="Who is to answer"
      value={fields.approver}
      onChange={(approver) => put({ approver })}
      choices={[
        { code: '', words: 'not yet known' },
        ...choices.map((each) => ({ code: each.key, words: `${each.words}, ${each.note}` })),
      ]}
    />
  )
}

const LEADS = [
  { code: 'working days', words: 'working days' },
  { code: 'weeks', words: 'weeks' },
]

function Times({ fields, put, kept }: PartProps & { kept: Kept }) {
  const days = (field: keyof Fields, label: string) => (
    <TextField
      label={label}
      keep={kept}
      inputMode="numeric"
      value={fields[field]}
      onChange={(event) => put({ [field]: event.target.value })}
    />
  )
  return (
    <fieldset className="grid grid-cols-4 gap-3 border border-line px-3 pt-1 pb-3 max-sm:grid-cols-2">
      <legend className="px-1 text-note font-medium text-second">Times, in working days</legend>
      <DateField
        label="Required on site"
        keep={kept}
        value={fields.required}
        onChange={(required) => put({ required })}
      />
      {days('lead', 'Lead time')}
      <Select
        label="Lead time in"
        value={fields.leadIn}
        onChange={(leadIn) => put({ leadIn })}
        choices={LEADS}
      />
      <DateField
        label="Planned to be sent in"
        keep={kept}
        value={fields.planned}
        onChange={(planned) => put({ planned })}
      />
      {days('review', 'Review, each round')}
      {days('rounds', 'Rounds expected')}
      {days('preparation', 'Preparing another round')}
    </fieldset>
  )
}
