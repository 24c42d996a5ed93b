import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { setsOf } from '../../domain/verdicts'
import { Checkbox } from '../../ui/Checkbox'
import { ChooseMany, type Choosable } from '../../ui/ChooseMany'
import { Select, TextField } from '../../ui/Field'
import { Button } from '../../ui/Button'
import { Day } from '../../ui/Standing'
import type { Kept } from '../../ui/useKept'
import { keyOf, namedOf } from '../../ui/usePeopleToChoose'
import type { StepGiven } from './useRouteSteps'

const COMMENTS = { code: 'comment', words: 'comments' }
const COUNTING = [
  { code: 'working', words: 'working days' },
  { code: 'calendar', words: 'calendar days' },
]
const QUOTAS = [
  { code: 'any', words: 'any one of them' },
  { code: 'all', words: 'all of them' },
  { code: 'some', words: 'at least so many' },
]

const BESIDE = 'border-l border-line pl-3'
const BELOW = 'col-span-full max-w-[520px] border-t border-dashed border-second pt-2'

interface Props {
  keep: Kept
  step: StepGiven
  name: string
  alone: boolean
  whom: readonly Choosable[]
  tried: Schemas['StepTried'] | undefined
  onChange: (part: Partial<StepGiven>) => void
  onTake: () => void
}

/** What, by whom, by how many of them, within how long, and until when that would be. */
export function RouteStep({ keep, step, name, alone, whom, tried, onChange, onTake }: Props) {
  return (
    <div className={`flex min-w-0 flex-col gap-2 ${step.sums_up ? BELOW : alone ? '' : BESIDE}`}>
      <div className="grid grid-cols-2 gap-2">
        <TextField
          keep={keep}
          label={step.sums_up ? 'Sums up' : 'Step'}
          value={step.name}
          placeholder="Check, decide …"
          onChange={(event) => onChange({ name: event.target.value })}
        />
        <AsksFor step={step} onChange={onChange} />
      </div>
      <ChooseMany
        label="Whom: people, roles, companies, outside contacts"
        choices={whom}
        chosen={step.whom.map(keyOf)}
        onChange={(next) => onChange({ whom: next.map(namedOf) })}
      />
      <HowMany keep={keep} step={step} onChange={onChange} />
      <div className="flex flex-wrap gap-x-4">
        {step.act === 'decide' && (
          <Checkbox
            checked={step.own_allowed ?? false}
            onChange={(own_allowed) => onChange({ own_allowed })}
            label="also those who filed it"
          />
        )}
        <Checkbox
          checked={!(step.handing_on ?? true)}
          onChange={(fixed) => onChange({ handing_on: !fixed })}
          label="is not handed on"
        />
        <Checkbox
          checked={!(step.marking ?? true)}
          onChange={(words) => onChange({ marking: !words })}
          label="in words alone, no marks"
        />
      </div>
      <Reminders keep={keep} step={step} name={name} onChange={onChange} />
      <Outcome tried={tried} name={name} onTake={alone ? undefined : onTake} />
    </div>
  )
}

/** Comments, or a verdict: of which set, where the project has several. */
function AsksFor({ step, onChange }: Pick<Props, 'step' | 'onChange'>) {
  const { project } = useSeat()
  const sets = setsOf(project.verdict_set)
  const given = step.verdicts ?? ''
  const named = sets.includes(given) ? sets : [...sets, given]
  const many = named.length > 1
  return (
    <Select
      label="Asks for"
      value={step.act === 'comment' ? 'comment' : `decide ${given}`}
      onChange={(next) =>
        onChange(
          next === 'comment' ? { act: 'comment' } : { act: 'decide', verdicts: next.slice('decide '.length) },
        )
      }
      choices={[
        COMMENTS,
        ...named.map((name) => ({
          code: `decide ${name}`,
          words: many ? `a verdict, ${name || 'the usual ones'}` : 'a verdict',
        })),
      ]}
    />
  )
}

function HowMany({ keep, step, onChange }: Pick<Props, 'keep' | 'step' | 'onChange'>) {
  return (
    <div className="flex flex-wrap items-end gap-2">
      <Select
        label="How many"
        value={step.quota ?? 'any'}
        onChange={(quota) => onChange({ quota: quota as NonNullable<StepGiven['quota']> })}
        choices={QUOTAS}
      />
      {step.quota === 'some' && (
        <Count
          keep={keep}
          label="At least"
          most={50}
          value={step.least ?? 1}
          onChange={(least) => onChange({ least })}
        />
      )}
      <Count keep={keep} label="Within" most={90} value={step.days} onChange={(days) => onChange({ days })} />
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

const USUAL = { before: 1, every: 2, lead_after: 3 }

/** When whoever has it is reminded, and when a lead is told: words, and the figures behind them. */
function Reminders({ keep, step, name, onChange }: Pick<Props, 'keep' | 'step' | 'name' | 'onChange'>) {
  const [open, setOpen] = useState(false)
  const remind = { ...USUAL, ...step.remind }
  const set = (part: Partial<typeof remind>) => onChange({ remind: { ...remind, ...part } })
  return (
    <div className="text-note">
      <button
        type="button"
        aria-expanded={open}
        aria-label={`${remindWords(remind)}, ${name}`}
        className="inline-flex min-h-6 items-center text-left text-second underline decoration-line"
        onClick={() => setOpen(!open)}
      >
        {remindWords(remind)}
      </button>
      {open && (
        <div className="flex flex-wrap gap-2">
          <Count
            keep={keep}
            label="Days before"
            least={0}
            most={30}
            value={remind.before}
            onChange={(before) => set({ before })}
          />
          <Count
            keep={keep}
            label="Every … days after"
            least={0}
            most={30}
            value={remind.every}
            onChange={(every) => set({ every })}
          />
          <Count
            keep={keep}
            label="Lead, days late"
            least={0}
            most={30}
            value={remind.lead_after}
            onChange={(lead_after) => set({ lead_after })}
          />
        </div>
      )}
    </div>
  )
}

function remindWords({ before, every, lead_after }: typeof USUAL): string {
  const words = [
    before && `${counted(before, 'day')} before`,
    'on the day',
    every && `every ${counted(every, 'day')} after`,
  ].filter(Boolean)
  const lead = lead_after ? `; a lead is told when it is ${counted(lead_after, 'day')} late` : ''
  return `Reminds ${words.join(', ')}${lead}`
}

interface OutcomeProps extends Pick<Props, 'tried' | 'name'> {
  onTake: (() => void) | undefined
}

/** Whom that would ask, until when, and what cannot work. */
function Outcome({ tried, name, onTake }: OutcomeProps) {
  return (
    <>
      <div
        className="flex flex-wrap items-center justify-between gap-2 text-note text-second"
        aria-live="polite"
      >
        {tried && (
          <span>
            {counted(tried.people, 'person', 'people')} · begun today, by <Day on={tried.ends_on} />
          </span>
        )}
        {onTake && (
          <Button small aria-label={`Take ${name} out of the row`} onClick={onTake}>
            Take it out
          </Button>
        )}
      </div>
      {tried?.trouble && <p className="text-note text-brick">{tried.trouble}</p>}
    </>
  )
}

interface CountProps {
  keep: Kept
  label: string
  least?: number
  most: number
  value: number
  onChange: (value: number) => void
}

function Count({ keep, label, least = 1, most, value, onChange }: CountProps) {
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <TextField
      keep={keep}
      label={label}
      type="number"
      min={least}
      max={most}
      className="w-[86px]"
      // While it is typed it may be empty, or a figure short.
      value={typed ?? value}
      onBlur={() => setTyped(null)}
      onChange={(event) => {
        setTyped(event.target.value)
        onChange(Math.max(least, Math.min(most, Math.round(Number(event.target.value)) || least)))
      }}
    />
  )
}
