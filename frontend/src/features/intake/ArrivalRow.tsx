import { useState } from 'react'

import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { Weight } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import type { Arrival, Field } from './useIntake'

interface Props {
  arrival: Arrival
  onCorrect: (field: Field, value: string) => void
  onDiscard: () => void
}

/** One file: its reading, which can be typed over, its findings and the usual mend of each. */
export function ArrivalRow({ arrival, onCorrect, onDiscard }: Props) {
  const faulty = new Set(arrival.findings.filter((each) => each.weight === 'stop').map((each) => each.field))
  const cell = (field: Field, label: string, mono: boolean) => (
    <td className="px-1 py-1">
      <CellInput
        key={arrival[field]}
        label={`${label} of ${arrival.file_name}`}
        value={arrival[field]}
        faulty={faulty.has(field)}
        mono={mono}
        onSave={(value) => onCorrect(field, value)}
      />
    </td>
  )
  const mends = new Map(
    arrival.findings
      .filter((each) => each.mend && each.weight === 'stop')
      .map((each) => [each.field, each.mend]),
  )
  return (
    <tr className="border-b border-line/60 align-top">
      <td className="px-3 py-1.5">
        {arrival.looking ? (
          <span className="text-second">Looking …</span>
        ) : (
          <Weight weight={arrival.weight} />
        )}
      </td>
      {cell('number', 'Number', true)}
      {cell('revision', 'Revision', true)}
      {cell('status', 'Status', true)}
      {cell('title', 'Title', false)}
      <td className="px-2 py-1.5">
        {arrival.findings.map((finding) => (
          <p
            key={finding.code + finding.words}
            className={finding.weight === 'stop' ? 'text-ink' : 'text-second'}
          >
            {finding.words}
          </p>
        ))}
        {[...mends].map(([field, mend]) => (
          <Button key={field} small className="mt-0.5 mr-2" onClick={() => onCorrect(field as Field, mend)}>
            Take <span className="code">{mend}</span>
          </Button>
        ))}
        <p className="truncate text-[12px] text-second" title={arrival.file_name}>
          {arrival.file_name}
        </p>
        <p className="text-[12px] text-second">
          {bytesText(arrival.size_bytes)}
          {arrival.page_count > 0 && `, ${arrival.page_count} page${arrival.page_count > 1 ? 's' : ''}`}
          {arrival.sheet_size && `, ${arrival.sheet_size}`}
          {arrival.held_at && (
            <span className="text-brick">
              , held since <When at={arrival.held_at} time />
            </span>
          )}
        </p>
      </td>
      <td className="px-2 py-1.5 text-right">
        <Button small onClick={onDiscard}>
          Discard
        </Button>
      </td>
    </tr>
  )
}

interface CellProps {
  label: string
  value: string
  faulty: boolean
  mono: boolean
  onSave: (value: string) => void
}

/** A cell to type in: Enter or leaving it saves, Esc takes the old value back. */
function CellInput({ label, value, faulty, mono, onSave }: CellProps) {
  const [typed, setTyped] = useState(value)
  const save = () => typed.trim() !== value && onSave(typed)
  return (
    <input
      aria-label={label}
      aria-invalid={faulty}
      value={typed}
      title={typed}
      className={`h-6 w-full rounded-[2px] border bg-transparent px-1 focus:bg-surface ${mono ? 'code' : ''} ${faulty ? 'border-brick bg-brick-tint' : 'border-transparent hover:border-line'}`}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={save}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') setTyped(value)
      }}
    />
  )
}
