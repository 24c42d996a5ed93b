import { useMutation } from '@tanstack/react-query'
import { X } from 'lucide-react'
import type { ReactNode } from 'react'

import { api, unwrap } from '../../api/client'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Dialog } from '../../ui/Dialog'
import { Select, TextField } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { ACT, useActing, useAfterAct, type Submittal } from './useSubmittals'

interface Props {
  submittal: Submittal
  onClose: () => void
}

type Once = Parameters<Parameters<typeof sendOnce>[1]>[0]

function useSetting(form: Kept, onClose: () => void, send: (more: Once) => Promise<unknown>) {
  const onSettled = useAfterAct()
  const here = useHere()
  return useMutation({
    mutationKey: ACT,
    mutationFn: () => sendOnce(form, send),
    onSuccess: () => here(onClose),
    onSettled,
  })
}

interface FrameProps {
  title: string
  about: string
  setting: ReturnType<typeof useSetting>
  why: string | false
  onClose: () => void
  onMore: () => void
  more: string
  children: ReactNode
}

function Frame({ title, about, setting, why, onClose, onMore, more, children }: FrameProps) {
  const acting = useActing()
  return (
    <Dialog open wide title={title} about={about} onClose={onClose}>
      <form
        className="flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          if (!why && !acting) setting.mutate()
        }}
      >
        {children}
        <Button small className="self-start" onClick={onMore}>
          {more}
        </Button>
        <ErrorNote error={setting.error} />
        <Button look="act" type="submit" className="self-start" busy={acting} why={why}>
          Keep
        </Button>
      </form>
    </Dialog>
  )
}

const without = <Each,>(list: readonly Each[], place: number) => list.filter((_, at) => at !== place)
const withPart = <Each,>(list: readonly Each[], place: number, part: Partial<Each>) =>
  list.map((each, at) => (at === place ? { ...each, ...part } : each))

interface Item {
  id: string
  title: string
  paragraph: string
  settled: boolean
}

const NO_ITEM: Item = { id: '', title: '', paragraph: '', settled: false }

/** What of a submittal is answered by itself. */
export function ItemsForm({ submittal, onClose }: Props) {
  const { line } = submittal
  const form = useKept('submittal-parts', `items ${line.id}`, `items of ${line.shown}`)
  const there = submittal.items.map(({ id, title, paragraph, verdict }) => ({
    ...{ id, title, paragraph },
    settled: verdict !== '',
  }))
  const [items, setItems] = useField<Item[]>(form, 'items', there.length ? there : [NO_ITEM])
  const given = items.filter((each) => each.id || each.title.trim())
  const setting = useSetting(form, onClose, (more) =>
    unwrap(
      api.PUT('/api/submittals/{submittal_id}/items', {
        ...more,
        params: { path: { submittal_id: line.id } },
        body: {
          version: line.version,
          items: given.map(({ id, title, paragraph }) => ({ id, title, paragraph })),
        },
      }),
    ),
  )
  return (
    <Frame
      title={`Items of ${line.shown}`}
      about="Each has a verdict of its own; the gravest is the submittal’s. What was answered to proceed is not asked about again."
      setting={setting}
      why={given.some((each) => !each.title.trim()) && 'Say what each item is called.'}
      onClose={onClose}
      onMore={() => setItems([...items, NO_ITEM])}
      more="One more item"
    >
      {items.map((each, place) => (
        <div key={each.id || `new ${place}`} className="flex items-end gap-2">
          <TextField
            label={`Item ${place + 1}`}
            keep={form}
            className="min-w-0 flex-1"
            value={each.title}
            onChange={(event) => setItems(withPart(items, place, { title: event.target.value }))}
          />
          <TextField
            label="Paragraph"
            keep={form}
            className="w-[110px]"
            value={each.paragraph}
            onChange={(event) => setItems(withPart(items, place, { paragraph: event.target.value }))}
          />
          <IconButton
            label={each.settled ? 'It has been answered, and stays' : `Leave out line ${place + 1}`}
            icon={<X size={16} aria-hidden />}
            disabled={each.settled}
            onClick={() => setItems(without(items, place))}
          />
        </div>
      ))}
    </Frame>
  )
}

interface Lot {
  id: string
  name: string
  required: string
  lead: string
  unit: 'working days' | 'weeks'
  settled: boolean
}

const NO_LOT: Lot = { id: '', name: '', required: '', lead: '', unit: 'working days', settled: false }

function lotsOf(submittal: Submittal): Lot[] {
  const there = submittal.lots.map((each) => ({
    id: each.id,
    name: each.name,
    required: each.required_on ?? '',
    lead: each.lead === null ? '' : String(each.lead),
    unit: each.lead_in === 'weeks' ? ('weeks' as const) : ('working days' as const),
    settled: each.delivered_on !== null,
  }))
  return there.length ? there : [NO_LOT]
}

/** What of a submittal is delivered by itself. */
export function LotsForm({ submittal, onClose }: Props) {
  const { line } = submittal
  const form = useKept('submittal-parts', `lots ${line.id}`, `lots of ${line.shown}`)
  const [lots, setLots] = useField<Lot[]>(form, 'lots', lotsOf(submittal))
  const given = lots.filter((each) => each.id || each.name.trim())
  const setting = useSetting(form, onClose, (more) =>
    unwrap(
      api.PUT('/api/submittals/{submittal_id}/lots', {
        ...more,
        params: { path: { submittal_id: line.id } },
        body: {
          version: line.version,
          lots: given.map((each) => ({
            id: each.id,
            name: each.name,
            required_on: each.required || null,
            lead: each.lead.trim() ? Number(each.lead) : null,
            lead_in: each.unit,
          })),
        },
      }),
    ),
  )
  return (
    <Frame
      title={`Lots of ${line.shown}`}
      about="Each is on site on a day of its own, and may have a lead time of its own; what is left empty is as the submittal has it. The float is the least of those that have not come."
      setting={setting}
      why={whyNot(given)}
      onClose={onClose}
      onMore={() => setLots([...lots, NO_LOT])}
      more="One more lot"
    >
      {lots.map((each, place) => (
        <LotRow
          key={each.id || `new ${place}`}
          form={form}
          lot={each}
          place={place}
          onChange={(part) => setLots(withPart(lots, place, part))}
          onRemove={() => setLots(without(lots, place))}
        />
      ))}
    </Frame>
  )
}

function whyNot(lots: readonly Lot[]): string | false {
  if (lots.some((each) => !each.name.trim())) return 'Say what each lot is called.'
  const whole = lots.every((each) => /^\d{0,3}$/.test(each.lead.trim()))
  return !whole && 'A lead time is a whole number.'
}

interface LotRowProps {
  form: Kept
  lot: Lot
  place: number
  onChange: (part: Partial<Lot>) => void
  onRemove: () => void
}

function LotRow({ form, lot, place, onChange, onRemove }: LotRowProps) {
  return (
    <div className="flex flex-wrap items-end gap-2 border-b border-line pb-2">
      <TextField
        label={`Lot ${place + 1}`}
        keep={form}
        className="min-w-[140px] flex-1"
        value={lot.name}
        onChange={(event) => onChange({ name: event.target.value })}
      />
      <DateField
        label="Required on site"
        keep={form}
        className="w-[150px]"
        value={lot.required}
        onChange={(required) => onChange({ required })}
      />
      <TextField
        label="Lead time"
        keep={form}
        inputMode="numeric"
        className="w-[80px]"
        value={lot.lead}
        onChange={(event) => onChange({ lead: event.target.value })}
      />
      <Select
        label="in"
        value={lot.unit}
        onChange={(unit) => onChange({ unit: unit === 'weeks' ? 'weeks' : 'working days' })}
        choices={[
          { code: 'working days', words: 'working days' },
          { code: 'weeks', words: 'weeks' },
        ]}
      />
      <IconButton
        label={lot.settled ? 'It has been delivered, and stays' : `Leave out line ${place + 1}`}
        icon={<X size={16} aria-hidden />}
        disabled={lot.settled}
        onClick={onRemove}
      />
    </div>
  )
}
