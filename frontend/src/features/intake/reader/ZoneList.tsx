import { Plus, Trash2 } from 'lucide-react'
import { useId } from 'react'

import type { Corner, Size } from '../../../domain/zones'
import { Button } from '../../../ui/Button'
import { Select, TextField } from '../../../ui/Field'
import { Input } from '../../../ui/Input'
import type { Schemas } from '../../../api/client'
import { wordsOf, type ReadField, type Zone } from './useReader'
import type { Keep } from '../../../ui/useKept'

interface Props {
  keep: Keep
  zones: readonly Zone[]
  size: Size
  chosen: number
  fields: readonly ReadField[]
  drawingField: string
  /** What each field reads on the sheet that is shown. */
  read: Record<string, Schemas['FieldRead']>
  onChoose: (place: number) => void
  onField: (field: string) => void
  onAdd: (zone: Zone) => void
  onChange: (place: number, zone: Zone) => void
  onRemove: (place: number) => void
}

const LINES = [
  { code: 'joined', words: 'joined by a space' },
  { code: 'closed up', words: 'closed up' },
  { code: 'first', words: 'only the first' },
  { code: 'last', words: 'only the last' },
]

/** The zones with what each reads here; the chosen one with all that can be set. */
export function ZoneList(props: Props) {
  const { zones, fields, chosen, drawingField, read, onChoose, onField, onAdd, size } = props
  return (
    <section aria-label="Zones" className="px-4 py-3">
      <p className="mb-1 text-note text-second">
        Choose a field and draw its zone on the sheet; <Plus size={12} className="inline" aria-hidden /> puts
        one into the lower right corner, to be moved with the arrows.
      </p>
      <div role="group" aria-label="Draw a zone for" className="mb-3 flex flex-wrap gap-1">
        {fields.map(({ field, words }) => (
          <span key={field} className="inline-flex">
            <button
              type="button"
              aria-pressed={drawingField === field}
              className={`h-6 rounded-l-[3px] border border-line px-2 text-note ${drawingField === field ? 'bg-plum font-semibold text-on-plum' : 'hover:border-second'}`}
              onClick={() => onField(drawingField === field ? '' : field)}
            >
              {words}
            </button>
            <button
              type="button"
              aria-label={`Add a zone for ${words}`}
              className="grid h-6 w-6 place-items-center rounded-r-[3px] border border-l-0 border-line hover:border-second"
              onClick={() => onAdd(inCorner(field, zones.length, size))}
            >
              <Plus size={12} aria-hidden />
            </button>
          </span>
        ))}
      </div>
      <ul>
        {zones.map((zone, place) => (
          <li
            key={place}
            className={`border-t border-line/60 py-1 ${place === chosen ? 'border-l-4 border-l-plum pl-2' : ''}`}
          >
            <button
              type="button"
              className="flex min-h-6 w-full items-baseline gap-3 py-0.5 text-left text-list"
              aria-expanded={place === chosen}
              onClick={() => onChoose(place)}
            >
              <span className="w-[92px] shrink-0 font-semibold">{wordsOf(fields, zone.field)}</span>
              <Value read={read[zone.field]} />
            </button>
            {place === chosen && <Settings {...props} zone={zone} place={place} />}
          </li>
        ))}
      </ul>
    </section>
  )
}

function Value({ read }: { read: Schemas['FieldRead'] | undefined }) {
  if (!read) return <span className="text-second">–</span>
  if (!read.value) return <span className="text-second">{read.why}</span>
  return <span className={`code break-all ${read.sure ? 'text-spruce' : 'text-ochre'}`}>{read.value}</span>
}

/** A new zone above those that are there. */
function inCorner(field: string, above: number, size: Size): Zone {
  const down = Math.min(10 + 14 * above, Math.max(0, size.height - 20))
  return {
    field,
    corner: 'lower right',
    across_mm: 10,
    down_mm: down,
    width_mm: Math.min(90, size.width - 10),
    height_mm: 12,
    label: '',
    pattern: '',
    lines: 'joined',
  }
}

function Settings({ keep, zone, place, onChange, onRemove }: Props & { zone: Zone; place: number }) {
  const set = (part: Partial<Zone>) => onChange(place, { ...zone, ...part })
  const compared = zone.field !== 'not compared'
  return (
    <div className="grid grid-cols-4 gap-x-2 gap-y-1.5 pb-2">
      <Select
        label="From the corner"
        className="col-span-2"
        value={zone.corner}
        onChange={(corner) => set({ corner: corner as Corner })}
        choices={['upper left', 'upper right', 'lower left', 'lower right'].map((each) => ({
          code: each,
          words: each,
        }))}
      />
      <Millimetres
        keep={keep}
        label="Across, mm"
        value={zone.across_mm}
        onChange={(value) => set({ across_mm: value })}
      />
      <Millimetres
        keep={keep}
        label="Up or down, mm"
        value={zone.down_mm}
        onChange={(value) => set({ down_mm: value })}
      />
      <Millimetres
        keep={keep}
        label="Width, mm"
        value={zone.width_mm}
        least={1}
        onChange={(value) => set({ width_mm: value })}
      />
      <Millimetres
        keep={keep}
        label="Height, mm"
        value={zone.height_mm}
        least={1}
        onChange={(value) => set({ height_mm: value })}
      />
      {compared && (
        <Select
          label="Several lines are"
          className="col-span-2"
          value={zone.lines ?? 'joined'}
          onChange={(lines) => set({ lines: lines as Zone['lines'] })}
          choices={LINES}
        />
      )}
      {compared && (
        <>
          <TextField
            keep={keep}
            label="Label printed inside"
            className="col-span-2"
            value={zone.label}
            placeholder="the usual ones are known"
            onChange={(event) => set({ label: event.target.value })}
          />
          <TextField
            keep={keep}
            label="Pattern: 9 figure, A capital, * any"
            className="code col-span-2"
            value={zone.pattern}
            placeholder="all of it"
            onChange={(event) => set({ pattern: event.target.value })}
          />
        </>
      )}
      <Button small className="justify-self-start" onClick={() => onRemove(place)}>
        <Trash2 size={12} aria-hidden /> Remove
      </Button>
    </div>
  )
}

interface MillimetresProps {
  keep: Keep
  label: string
  value: number
  least?: number
  onChange: (value: number) => void
}

function Millimetres({ keep, label, value, least = -50, onChange }: MillimetresProps) {
  const id = useId()
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 block text-note font-medium text-second">
        {label}
      </label>
      <Input
        keep={keep}
        id={id}
        type="number"
        step={0.5}
        min={least}
        max={2000}
        value={value}
        className="code w-full"
        onChange={(event) => {
          const next = event.target.valueAsNumber
          if (Number.isFinite(next)) onChange(next)
        }}
      />
    </div>
  )
}
