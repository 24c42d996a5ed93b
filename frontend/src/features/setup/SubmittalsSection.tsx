import { Trash2 } from 'lucide-react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Select, TextField } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { Input } from '../../ui/Input'
import type { Keep } from '../../ui/useKept'
import { SaveBar, Section, WithSetup } from './Section'
import { SubmittalWords } from './SubmittalWords'
import { useRows } from './useRows'
import { useDraft, useSave, type Setup } from './useSetup'

type Kind = Schemas['SubmittalKindSet']

const NEW_KIND: Kind = { code: '', words: '', for_information: false, asked_as: [] }

/** How submittals are numbered, what they begin with, and their kinds. */
export function SubmittalsSection() {
  return <WithSetup what="the submittals" form={Form} />
}

const NUMBERED = [
  { code: 'company', words: 'company and running number, HBC-0012' },
  { code: 'section', words: 'section and running number, 084413-003' },
]

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft('Submittals', setup.submittals, setup.version)
  const save = useSave(draft, (submittals, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/submittals', {
        params: { path: { project_id: project.id } },
        body: { version, submittals },
      }),
    ),
  )
  const { value } = draft
  const put = (part: Partial<typeof value>) => draft.change({ ...value, ...part })
  const may = project.leads
  const days = (field: 'buffer' | 'review' | 'preparation', label: string) => (
    <TextField
      label={label}
      keep={draft.kept}
      type="number"
      min={0}
      max={400}
      disabled={!may}
      value={String(value[field])}
      onChange={(event) => put({ [field]: Math.trunc(Number(event.target.value)) || 0 })}
    />
  )
  return (
    <Section
      title="Submittals"
      about="What must be sent in, and the clock it is held against. The buffer is kept free before the day on site, for every submittal; the other times are what a new one begins with. All in working days."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        <div className="grid max-w-[760px] grid-cols-4 gap-3 max-md:grid-cols-2">
          <Select
            label="New ones are numbered by"
            className="col-span-4 max-w-[360px] max-md:col-span-2"
            value={value.numbered_by}
            disabled={!may}
            onChange={(by) => put({ numbered_by: by === 'section' ? 'section' : 'company' })}
            choices={NUMBERED}
          />
          {days('buffer', 'Buffer before the day on site')}
          {days('review', 'Review, each round')}
          {days('preparation', 'Preparing another round')}
        </div>
        <h2 className="mt-5 mb-1 text-body font-semibold">Kinds</h2>
        <Kinds kinds={value.kinds} may={may} keep={draft.kept} onChange={(kinds) => put({ kinds })} />
        <SubmittalWords value={value} may={may} keep={draft.kept} onChange={put} />
      </div>
      <SaveBar draft={draft} save={save} may={may} />
    </Section>
  )
}

interface KindsProps {
  kinds: readonly Kind[]
  may: boolean
  keep: Keep
  onChange: (kinds: Kind[]) => void
}

function Kinds({ kinds, may, keep, onChange }: KindsProps) {
  const { list, change, take, add } = useRows(kinds, onChange, NEW_KIND)
  return (
    <>
      <ul ref={list} className="max-w-[760px]">
        {kinds.map((row, place) => (
          <KindRow
            key={place}
            row={row}
            place={place}
            may={may}
            keep={keep}
            onChange={(part) => change(place, part)}
            onTake={() => take(place)}
          />
        ))}
      </ul>
      {may && (
        <Button small className="mt-2" onClick={add}>
          Add a kind
        </Button>
      )}
    </>
  )
}

interface RowProps {
  row: Kind
  place: number
  may: boolean
  keep: Keep
  onChange: (part: Partial<Kind>) => void
  onTake: () => void
}

function KindRow({ row, place, may, keep, onChange, onTake }: RowProps) {
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line/60 py-1.5">
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
        className="w-[240px]"
        maxLength={60}
        value={row.words}
        disabled={!may}
        onChange={(event) => onChange({ words: event.target.value })}
      />
      <Checkbox
        label="for information: no verdict is wanted"
        checked={row.for_information ?? false}
        disabled={!may}
        onChange={(on) => onChange({ for_information: on })}
      />
      {may && (
        <IconButton
          label={`Take ${row.words || `kind ${place + 1}`} away`}
          icon={<Trash2 size={15} aria-hidden />}
          onClick={onTake}
        />
      )}
    </li>
  )
}
