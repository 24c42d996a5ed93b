import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react'

import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { ChooseMany, type Choosable } from '../../ui/ChooseMany'
import { Select, TextField } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { Day } from '../../ui/Standing'
import type { Kept } from '../../ui/useKept'
import type { StepGiven } from './useRouteSteps'

const ACTS = [
  { code: 'comment', words: 'comments' },
  { code: 'decide', words: 'a verdict on each document' },
]
const COUNTING = [
  { code: 'working', words: 'working days' },
  { code: 'calendar', words: 'calendar days' },
]

interface Props {
  keep: Kept
  step: StepGiven
  place: number
  last: number
  people: readonly Choosable[]
  tried: Schemas['StepTried'] | undefined
  onChange: (part: Partial<StepGiven>) => void
  onMove: (by: number) => void
  onTake: () => void
}

/** A row of the slip: what, by whom, within how long, and until when that would be. */
export function RouteStep({ keep, step, place, last, people, tried, onChange, onMove, onTake }: Props) {
  const name = step.name || `step ${place + 1}`
  return (
    <li className="border-b border-line px-3 py-2 last:border-b-0">
      <div className="grid grid-cols-[20px_1fr_1fr_auto] items-start gap-3 max-md:grid-cols-[20px_1fr]">
        <span className="pt-5 font-bold text-plum">{place + 1}</span>
        <TextField
          keep={keep}
          label="Step"
          value={step.name}
          placeholder="Check, decide …"
          onChange={(event) => onChange({ name: event.target.value })}
        />
        <Select
          className="max-md:col-start-2"
          label="Asks for"
          value={step.act}
          onChange={(act) => onChange({ act: act as StepGiven['act'] })}
          choices={ACTS}
        />
        <Acts name={name} place={place} last={last} onMove={onMove} onTake={onTake} />
        <div className="col-start-2">
          <ChooseMany
            label="Any one of"
            choices={people}
            chosen={step.people}
            onChange={(next) => onChange({ people: next })}
          />
        </div>
        <Days keep={keep} step={step} onChange={onChange} />
        <p
          className="pt-5 text-note whitespace-nowrap text-second max-md:col-start-2 max-md:pt-0"
          aria-live="polite"
        >
          {tried && (
            <>
              begun today, by <Day on={tried.ends_on} />
            </>
          )}
        </p>
      </div>
      {tried?.trouble && <p className="mt-1 ml-8 text-note text-brick">{tried.trouble}</p>}
    </li>
  )
}

function Days({ keep, step, onChange }: Pick<Props, 'keep' | 'step' | 'onChange'>) {
  const [typed, setTyped] = useState<string | null>(null)
  const bounded = (days: string) => Math.max(1, Math.min(90, Math.round(Number(days)) || 1))
  return (
    <div className="flex flex-wrap items-end gap-2 max-md:col-start-2">
      <TextField
        keep={keep}
        label="Within"
        type="number"
        min={1}
        max={90}
        className="w-[70px]"
        // While it is typed it may be empty, or a figure short.
        value={typed ?? step.days}
        onBlur={() => setTyped(null)}
        onChange={(event) => {
          setTyped(event.target.value)
          onChange({ days: bounded(event.target.value) })
        }}
      />
      <Select
        hideLabel
        label="Days counted as"
        value={step.counting}
        onChange={(counting) => onChange({ counting: counting as StepGiven['counting'] })}
        choices={COUNTING}
      />
    </div>
  )
}

interface ActsProps extends Pick<Props, 'place' | 'last' | 'onMove' | 'onTake'> {
  name: string
}

function Acts({ name, place, last, onMove, onTake }: ActsProps) {
  return (
    <span className="flex pt-5 text-second max-md:col-start-2 max-md:pt-0">
      <IconButton
        label={`Move ${name} up`}
        disabled={place === 0}
        onClick={() => onMove(-1)}
        icon={<ArrowUp size={14} />}
      />
      <IconButton
        label={`Move ${name} down`}
        disabled={place === last}
        onClick={() => onMove(1)}
        icon={<ArrowDown size={14} />}
      />
      <IconButton label={`Take ${name} away`} onClick={onTake} icon={<Trash2 size={14} />} />
    </span>
  )
}
