import { Trash2 } from 'lucide-react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { ChooseMany } from '../../ui/ChooseMany'
import { IconButton } from '../../ui/IconButton'
import { Input } from '../../ui/Input'
import type { Keep } from '../../ui/useKept'
import { SaveBar, Section, WithSetup } from './Section'
import { useRows } from './useRows'
import { useDraft, useSave, type Setup } from './useSetup'

type Purpose = Schemas['PurposeSet']

/** What goes to those who are to know goes for it: it may be renamed, and stays. */
const TO_KNOW = 'information'
const NEW: Purpose = { code: '', words: '', answer_days: 0, released: false, statuses: [] }

/** For what transmittals are sent, and what follows from it. */
export function PurposesSection() {
  return <WithSetup what="the purposes of issue" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft('Purposes of issue', setup.purposes, setup.version)
  const save = useSave(draft, (purposes, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/purposes', {
        params: { path: { project_id: project.id } },
        body: { version, purposes: [...purposes] },
      }),
    ),
  )
  const rows = draft.value
  const { list, change, take, add } = useRows(rows, draft.change, NEW)
  return (
    <Section
      title="Purposes of issue"
      about="For what transmittals are sent. Each may want an answer, and be for what is released or for some statuses alone; the form says so at every line that is not. What was sent keeps the words it was sent for."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        <ul ref={list} className="max-w-[1000px]">
          {rows.map((row, place) => (
            <PurposeRow
              key={place}
              keep={draft.kept}
              row={row}
              place={place}
              statuses={setup.statuses}
              may={project.leads}
              onChange={(part) => change(place, part)}
              onTake={() => take(place)}
            />
          ))}
        </ul>
        {project.leads && (
          <Button small onClick={add}>
            Add a purpose
          </Button>
        )}
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}

interface RowProps {
  keep: Keep
  row: Purpose
  place: number
  statuses: Setup['statuses']
  may: boolean
  onChange: (part: Partial<Purpose>) => void
  onTake: () => void
}

function PurposeRow({ keep, row, place, statuses, may, onChange, onTake }: RowProps) {
  const words = row.words || `purpose ${place + 1}`
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-line/60 py-2">
      <Input
        keep={keep}
        small
        aria-label={`Words of purpose ${place + 1}`}
        className="w-[190px]"
        value={row.words}
        disabled={!may}
        onChange={(event) => onChange({ words: event.target.value })}
      />
      <label className="flex items-center gap-1.5 text-list">
        answer in
        <Input
          keep={keep}
          small
          type="number"
          min={0}
          max={250}
          aria-label={`Working days for an answer, ${words}; empty for none`}
          className="w-[64px]"
          placeholder="none"
          value={row.answer_days ? String(row.answer_days) : ''}
          disabled={!may}
          onChange={(event) => onChange({ answer_days: Math.trunc(Number(event.target.value)) || 0 })}
        />
        working days
      </label>
      <Checkbox
        label="only what is released"
        checked={row.released ?? false}
        disabled={!may}
        onChange={(released) => onChange({ released })}
      />
      <div className="min-w-[200px] flex-1">
        <ChooseMany
          label={`Only at these statuses, ${words}`}
          choices={statuses.map(({ code, words: said }) => ({ key: code, words: code, note: said }))}
          placeholder="any status"
          chosen={row.statuses ?? []}
          onChange={(chosen) => may && onChange({ statuses: chosen })}
        />
      </div>
      {may && row.code !== TO_KNOW && (
        <IconButton label={`Take ${words} away`} icon={<Trash2 size={15} aria-hidden />} onClick={onTake} />
      )}
    </li>
  )
}
