import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react'
import { useDeferredValue, useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Select, TextField } from '../../ui/Field'
import { ErrorNote, Weight } from '../../ui/Notes'
import { IconButton } from '../../ui/IconButton'
import { CodeRows } from './CodeRows'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'
import type { Keep } from '../../ui/useKept'
import { useNewLine } from '../../ui/useNewLine'

type NumberField = Schemas['NumberFieldSet']

const KINDS = [
  { code: 'codes', words: 'one of these codes' },
  { code: 'figures', words: 'figures' },
  { code: 'letters', words: 'capitals' },
  { code: 'mixed', words: 'capitals or figures' },
]
const SEPARATORS = ['-', '_', '.', '/'].map((code) => ({ code, words: code }))

/** How numbers are made, with a live example and a box to try a number in. */
export function NumbersSection() {
  return <WithSetup what="the numbers" form={Editor} />
}

function Editor({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const { list, added } = useNewLine<HTMLDivElement>()
  const draft = useDraft(
    'Numbers',
    { separator: setup.separator, number_fields: setup.number_fields },
    setup.version,
  )
  const save = useSave(draft, (value, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/numbering', {
        params: { path: { project_id: project.id } },
        body: { version, ...value },
      }),
    ),
  )
  const { separator, number_fields: fields } = draft.value
  const [open, setOpen] = useState(0)
  const setFields = (next: NumberField[]) => draft.change({ separator, number_fields: next })
  const change = (place: number, part: Partial<NumberField>) =>
    setFields(fields.map((field, at) => (at === place ? { ...field, ...part } : field)))

  function move(place: number, by: number) {
    const next = [...fields]
    const [field] = next.splice(place, 1)
    if (field) next.splice(place + by, 0, field)
    setFields(next)
    setOpen(place + by)
  }

  return (
    <Section
      title="Numbers"
      about="Every document's number keeps this convention. Numbers that are in the register stay as they are."
    >
      <Trial separator={separator} fields={fields} />
      <div className="flex min-h-0 flex-1 max-md:flex-col max-md:overflow-auto">
        <div className="flex w-[300px] shrink-0 flex-col overflow-auto border-r border-line px-3 py-3 max-md:w-full max-md:border-r-0">
          <ol aria-label="Fields, in order">
            {fields.map((field, place) => (
              <li
                key={place}
                className={`flex items-center border-b border-line/60 ${place === open ? 'bg-plum-tint' : ''}`}
              >
                <button
                  type="button"
                  className="min-w-0 flex-1 px-2 py-1.5 text-left"
                  aria-pressed={place === open}
                  onClick={() => setOpen(place)}
                >
                  <span className="font-medium">{field.name || 'a new field'}</span>
                  <span className="block truncate text-note text-second">{madeOf(field)}</span>
                </button>
                <span className="flex shrink-0 text-second">
                  <IconButton
                    label={`Move ${field.name} to the front`}
                    disabled={place === 0}
                    onClick={() => move(place, -1)}
                    icon={<ArrowUp size={14} />}
                  />
                  <IconButton
                    label={`Move ${field.name} to the back`}
                    disabled={place === fields.length - 1}
                    onClick={() => move(place, 1)}
                    icon={<ArrowDown size={14} />}
                  />
                  <IconButton
                    label={`Take the field ${field.name} away`}
                    onClick={() => setFields(fields.filter((_, at) => at !== place))}
                    icon={<Trash2 size={14} />}
                  />
                </span>
              </li>
            ))}
          </ol>
          <Button
            small
            className="mt-2 self-start"
            onClick={() => {
              added()
              setFields([...fields, { name: '', codes: [], kind: 'figures', shortest: 2, longest: 2 }])
              setOpen(fields.length)
            }}
          >
            Add a field
          </Button>
          <Select
            label="Between the fields"
            className="mt-4 w-[140px]"
            value={separator}
            onChange={(next) => draft.change({ separator: next, number_fields: fields })}
            choices={SEPARATORS}
          />
        </div>
        <div ref={list} className="contents">
          {fields[open] && (
            <FieldForm
              key={open}
              keep={draft.kept}
              field={fields[open]}
              onChange={(part) => change(open, part)}
            />
          )}
        </div>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}

function madeOf(field: NumberField): string {
  if (field.kind === 'codes')
    return field.codes.length ? field.codes.map((each) => each.code).join(' ') : 'no codes yet'
  if (field.kind === 'own') return 'a pattern of its own'
  const words = KINDS.find((each) => each.code === field.kind)?.words ?? ''
  return field.shortest === field.longest
    ? `${field.shortest} ${words}`
    : `${field.shortest} to ${field.longest} ${words}`
}

interface FormProps {
  keep: Keep
  field: NumberField
  onChange: (part: Partial<NumberField>) => void
}

function FieldForm({ keep, field, onChange }: FormProps) {
  const kinds = field.kind === 'own' ? [...KINDS, { code: 'own', words: 'a pattern of its own' }] : KINDS
  return (
    <div className="min-w-0 flex-1 overflow-auto px-5 py-3">
      <div className="flex gap-3">
        <TextField
          keep={keep}
          label="Field"
          className="w-[200px]"
          value={field.name}
          onChange={(event) => onChange({ name: event.target.value })}
        />
        <Select
          label="Made of"
          className="w-[200px]"
          value={field.kind}
          onChange={(kind) => onChange({ kind: kind as NumberField['kind'] })}
          choices={kinds}
        />
        {field.kind !== 'codes' && field.kind !== 'own' && (
          <Length keep={keep} field={field} onChange={onChange} />
        )}
      </div>
      {field.kind === 'codes' && (
        <div className="mt-3 max-w-[560px]">
          <p className="mb-1 text-note text-second">
            Codes and what they mean. Two columns of a spreadsheet can be pasted into a code.
          </p>
          <CodeRows keep={keep} what="code" rows={field.codes} onChange={(codes) => onChange({ codes })} />
        </div>
      )}
    </div>
  )
}

/** How many figures or letters it has. */
function Length({ keep, field, onChange }: FormProps) {
  const number = (text: string) => Math.max(1, Math.min(10, Number(text) || 1))
  return (
    <>
      <TextField
        keep={keep}
        label="At least"
        type="number"
        min={1}
        max={10}
        className="w-[84px]"
        value={field.shortest}
        onChange={(event) => {
          const shortest = number(event.target.value)
          onChange({ shortest, longest: Math.max(shortest, field.longest) })
        }}
      />
      <TextField
        keep={keep}
        label="At most"
        type="number"
        min={1}
        max={10}
        className="w-[84px]"
        value={field.longest}
        onChange={(event) => {
          const longest = number(event.target.value)
          onChange({ longest, shortest: Math.min(longest, field.shortest) })
        }}
      />
    </>
  )
}

/** The live example, and a number to try on the convention as it is being edited. */
function Trial({ separator, fields }: { separator: string; fields: NumberField[] }) {
  const { project } = useSeat()
  const [number, setNumber] = useState('')
  const body = useDeferredValue({ separator, number_fields: fields, number })
  const tried = useQuery({
    queryKey: ['try-number', project.id, body],
    queryFn: () =>
      unwrap(
        api.POST('/api/projects/{project_id}/numbering/try', {
          params: { path: { project_id: project.id } },
          body,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return (
    <div className="grid gap-5 sm:grid-cols-2 border-b border-line bg-surface px-5 py-3">
      <div>
        <p className="text-note font-medium text-second">A number looks like</p>
        <p className="code text-title leading-7 font-bold">{tried.data?.example ?? '…'}</p>
        <p className="truncate text-note text-second" title={tried.data?.outline}>
          {tried.data?.outline}
        </p>
        {tried.data && tried.data.breaking > 0 && (
          <p className="mt-1 text-note text-ochre">
            {tried.data.breaking.toLocaleString('en-GB')} of the latest numbers in the register do not keep
            it, like <span className="code">{tried.data.breaking_like[0]}</span>. They stay; new revisions of
            them are stopped in Intake.
          </p>
        )}
      </div>
      <div>
        <TextField
          keep="passing"
          label="Try a number"
          className="code"
          value={number}
          onChange={(event) => setNumber(event.target.value)}
        />
        <div role="status" className="mt-1 text-list">
          {tried.error ? (
            <ErrorNote error={tried.error} />
          ) : !number.trim() ? (
            <span className="text-second">A wrong one is explained by its field.</span>
          ) : tried.data?.faults.length ? (
            tried.data.faults.map((fault) => (
              <p key={fault} className="text-brick">
                {fault}
              </p>
            ))
          ) : (
            <Weight weight="fine" />
          )}
        </div>
      </div>
    </div>
  )
}
