import { Trash2 } from 'lucide-react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Select } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { Input } from '../../ui/Input'
import type { Keep } from '../../ui/useKept'
import { SaveBar, Section, WithSetup } from './Section'
import { useRows } from './useRows'
import { useDraft, useSave, type Setup } from './useSetup'

type Kind = Required<Schemas['LetterKindSet']>

const NEW: Kind = {
  code: '',
  words: '',
  numbered_by: 'pair',
  answer_days: 0,
  counting: 'calendar',
  asks: false,
  out_of_use: false,
  bar: 0,
  bar_in: 'days',
  looked_at: false,
}

/** The kinds of letters: how each is numbered, what it wants, by when it is served, whether somebody looks at it first. */
export function LetterKindsSection() {
  return <WithSetup what="the kinds of letters" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft('Kinds of letters', setup.letter_kinds as Kind[], setup.version)
  const save = useSave(draft, (kinds, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/letter-kinds', {
        params: { path: { project_id: project.id } },
        body: { version, kinds: [...kinds] },
      }),
    ),
  )
  const rows = draft.value
  const { list, change, take, add } = useRows(rows, draft.change, NEW)
  return (
    <Section
      title="Letters"
      about="The kinds of letters. What is set here holds from the next one on; what was sent keeps its days. A kind of which there are letters can be renamed or put out of use, and stays."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        <ul ref={list} className="flex max-w-[1000px] flex-col">
          {rows.map((row, place) => (
            <KindRow
              key={place}
              keep={draft.kept}
              row={row}
              place={place}
              may={project.leads}
              onChange={(part) => change(place, part)}
              onTake={() => take(place)}
            />
          ))}
        </ul>
        {project.leads && (
          <Button small className="mt-2" onClick={add}>
            Add a kind
          </Button>
        )}
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}

interface RowProps {
  keep: Keep
  row: Kind
  place: number
  may: boolean
  onChange: (part: Partial<Kind>) => void
  onTake: () => void
}

function KindRow(props: RowProps) {
  const { row, place, may, onChange, onTake } = props
  const words = row.words || `kind ${place + 1}`
  const flag = (field: 'asks' | 'looked_at' | 'out_of_use', label: string) => (
    <Checkbox
      label={label}
      checked={row[field]}
      disabled={!may}
      onChange={(on) => onChange({ [field]: on })}
    />
  )
  return (
    <li aria-label={words} className="flex flex-col gap-1.5 border-b border-line/60 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <Named {...props} />
        <Select
          label={`Number of ${words}`}
          hideLabel
          className="w-[250px]"
          value={row.numbered_by}
          disabled={!may}
          onChange={(by) => onChange({ numbered_by: by === 'pair' ? 'pair' : 'company' })}
          choices={[
            { code: 'pair', words: `numbered HBC-TRA-${row.code || 'L'}-0012` },
            { code: 'company', words: `numbered TRA-${row.code || 'L'}-0007` },
          ]}
        />
        {may && (
          <IconButton label={`Take ${words} away`} icon={<Trash2 size={15} aria-hidden />} onClick={onTake} />
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 pl-[84px] text-list max-md:pl-0">
        <Days {...props} />
        {flag('asks', 'a question, with a proposed answer')}
        {flag('looked_at', 'somebody looks at it before it goes')}
        {flag('out_of_use', 'out of use')}
      </div>
    </li>
  )
}

function Named({ keep, row, place, may, onChange }: RowProps) {
  return (
    <>
      <Input
        keep={keep}
        small
        aria-label={`Code of kind ${place + 1}`}
        className="code w-[72px]"
        maxLength={6}
        value={row.code}
        disabled={!may}
        onChange={(event) => onChange({ code: event.target.value.toUpperCase() })}
      />
      <Input
        keep={keep}
        small
        aria-label={`Words of kind ${place + 1}`}
        className="w-[200px]"
        maxLength={40}
        value={row.words}
        disabled={!may}
        onChange={(event) => onChange({ words: event.target.value })}
      />
    </>
  )
}

/** By when an answer is wanted, and by when one must be served. */
function Days({ keep, row, place, may, onChange }: RowProps) {
  const words = row.words || `kind ${place + 1}`
  const number = (field: 'answer_days' | 'bar', label: string) => (
    <Input
      keep={keep}
      small
      type="number"
      min={0}
      max={365}
      aria-label={label}
      className="w-[60px]"
      placeholder="none"
      value={row[field] ? String(row[field]) : ''}
      disabled={!may}
      onChange={(event) => onChange({ [field]: Math.trunc(Number(event.target.value)) || 0 })}
    />
  )
  return (
    <>
      <span className="flex items-center gap-1.5">
        answer in {number('answer_days', `Days for an answer, ${words}; empty for none`)}
        <Select
          label={`Days of ${words}`}
          hideLabel
          className="w-[126px]"
          value={row.counting}
          disabled={!may}
          onChange={(by) => onChange({ counting: by === 'working' ? 'working' : 'calendar' })}
          choices={[
            { code: 'calendar', words: 'calendar days' },
            { code: 'working', words: 'working days' },
          ]}
        />
      </span>
      <span className="flex items-center gap-1.5">
        served within {number('bar', `Time bar of ${words}; empty for none`)}
        <Select
          label={`Time bar of ${words} is in`}
          hideLabel
          className="w-[126px]"
          value={row.bar_in}
          disabled={!may}
          onChange={(by) => onChange({ bar_in: by as Kind['bar_in'] })}
          choices={['days', 'working days', 'weeks'].map((each) => ({ code: each, words: each }))}
        />
      </span>
    </>
  )
}
