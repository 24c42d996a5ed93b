import { useQuery } from '@tanstack/react-query'
import { CalendarDays, ChevronLeft, ChevronRight } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useContext, useId, useState, type KeyboardEvent, type ReactNode } from 'react'

import { api, unwrap } from '../api/client'
import { SeatContext, useSeat } from '../api/me'
import { dayText } from '../domain/dates'
import {
  addDays,
  addMonths,
  isWorked,
  orderOf,
  readDay,
  weekdayText,
  weeksOf,
  type WorkingDays,
} from '../domain/typedDates'
import { asTyped, type TypedDate } from './halfTyped'
import { formOf, type Keeping } from './Input'

interface Props extends Keeping {
  label: string
  hideLabel?: boolean
  /** A day as `2027-03-14`, or nothing. */
  value: string
  onChange: (day: string) => void
  /** When one goes on from it. */
  onBlur?: () => void
  disabled?: boolean
  small?: boolean
  className?: string
}

const USUAL: WorkingDays = { weekdays: [0, 1, 2, 3, 4], holidays: new Set() }

interface NamedDays extends WorkingDays {
  names: ReadonlyMap<string, string>
}

/** The days that the project works, and the names of its holidays. */
function useDays(): NamedDays {
  const project = useContext(SeatContext)?.project
  const days = useQuery({
    queryKey: ['days', project?.id],
    queryFn: () =>
      unwrap(
        api.GET('/api/projects/{project_id}/days', { params: { path: { project_id: project?.id ?? '' } } }),
      ),
    enabled: project !== undefined,
    staleTime: 5 * 60_000,
  })
  const names = new Map(days.data?.holidays.map((each) => [each.on, each.name]))
  return days.data
    ? { weekdays: days.data.working_weekdays, holidays: new Set(names.keys()), names }
    : { ...USUAL, names }
}

const ORDER = orderOf(typeof navigator === 'undefined' ? 'en-GB' : navigator.language)

/** What is typed, as it is typed: kept with its form. */
function useText({ keep, label }: Props) {
  const [here, setHere] = useState<TypedDate | null>(null)
  if (typeof keep === 'string') return [here?.text ?? null, setHere] as const
  const field = asTyped(label)
  const there = keep.draft?.fields[field] as TypedDate | undefined
  return [there?.text ?? null, (next: TypedDate | null) => keep.put(field, next, null)] as const
}

/** What is typed and is no day yet is kept as what is typed, beside the day. */
function useTyped(props: Props) {
  const { value, onChange } = props
  const { project } = useSeat()
  const days = useDays()
  const [typed, put] = useText(props)
  const reading = { today: project.today, order: ORDER, days }
  return {
    days,
    today: project.today,
    text: typed ?? (value ? dayText(value, '') : ''),
    typing: typed !== null,
    wrong: typed !== null && typed.trim() !== '' && readDay(typed, reading) === null,
    type: (text: string) => {
      const day = readDay(text, reading)
      put({ text, wrong: day === null && text.trim() !== '' })
      // Until it is a day, the one before stands: nothing is taken away by half a date.
      if (day !== null || text.trim() === '') onChange(day ?? '')
    },
    choose: (day: string) => {
      put(null)
      onChange(day)
    },
    /** The day as it is written; what is no day stays to be looked at. */
    settle: () => {
      if (typed !== null && (typed.trim() === '' || readDay(typed, reading))) put(null)
    },
  }
}

/** The one field for dates: typed as they are said, by arrow keys, or chosen from the project's calendar. */
export function DateField(props: Props) {
  const {
    label,
    hideLabel = false,
    keep,
    value,
    onBlur,
    disabled = false,
    small = false,
    className = '',
  } = props
  const id = useId()
  const typed = useTyped(props)

  function onKey(event: KeyboardEvent<HTMLInputElement>) {
    const steps: Record<string, (day: string) => string> = {
      ArrowUp: (day) => addDays(day, 1),
      ArrowDown: (day) => addDays(day, -1),
      PageUp: (day) => addMonths(day, 1),
      PageDown: (day) => addMonths(day, -1),
    }
    const step = steps[event.key]
    if (!step || event.altKey) return
    event.preventDefault()
    typed.choose(step(value || typed.today))
  }

  return (
    <div className={className}>
      <label
        htmlFor={id}
        className={hideLabel ? 'sr-only' : 'mb-0.5 block font-sans text-note font-medium text-second'}
      >
        {label}
      </label>
      <div className="relative">
        <input
          id={id}
          data-form={formOf(keep)}
          autoComplete="off"
          placeholder="14 mar, +5"
          title="Also: today, +5 for five working days on, arrow keys"
          aria-invalid={typed.wrong}
          aria-describedby={`${id}-says`}
          disabled={disabled}
          value={typed.text}
          ref={(field) => field?.setCustomValidity(typed.wrong ? `${label}: not a date` : '')}
          className={`w-full rounded-[3px] border bg-surface pr-7 text-ink placeholder:text-second focus:border-plum disabled:border-transparent disabled:bg-transparent ${small ? 'h-7 pl-1.5' : 'h-8 pl-2'} ${typed.wrong ? 'border-brick' : 'border-line'}`}
          onChange={(event) => typed.type(event.target.value)}
          onKeyDown={onKey}
          onBlur={() => {
            typed.settle()
            onBlur?.()
          }}
        />
        {!disabled && <Calendar {...typed} label={label} value={value} />}
        <Says id={`${id}-says`} typed={typed} value={value} />
      </div>
    </div>
  )
}

type Typed = ReturnType<typeof useTyped>

/** What day is meant, while it is typed; under the field, over what is there, so that nothing moves. */
function Says({ id, typed, value }: { id: string; typed: Typed; value: string }): ReactNode {
  const holiday = typed.days.names.get(value)
  const meant = typed.typing && value ? `${weekdayText(value)} ${dayText(value, '')}` : ''
  const words = typed.wrong ? 'Not a date. Try 14 mar, 14.3. or +5.' : meant
  return (
    <p
      id={id}
      className={`absolute top-full left-0 z-20 mt-px text-note whitespace-nowrap ${words ? 'border border-line bg-surface px-1.5 py-0.5' : ''} ${typed.wrong ? 'text-brick' : 'text-second'}`}
    >
      {words}
      {meant && holiday ? `, ${holiday}` : ''}
    </p>
  )
}

interface CalendarProps extends Typed {
  label: string
  value: string
}

function Calendar({ label, value, today, days, choose }: CalendarProps) {
  const [open, setOpen] = useState(false)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={`Calendar for ${label}`}
        className="absolute top-0 right-0 flex h-full w-7 items-center justify-center text-second hover:text-plum"
      >
        <CalendarDays size={14} aria-hidden />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          collisionPadding={8}
          aria-label={`Calendar for ${label}`}
          className="z-[60] border border-second bg-surface p-2"
        >
          <Month
            value={value}
            today={today}
            days={days}
            onChoose={(day) => {
              choose(day)
              setOpen(false)
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

interface MonthProps {
  value: string
  today: string
  days: NamedDays
  onChoose: (day: string) => void
}

const MONTH = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' })

/** A month to choose from by mouse or arrows: days that are not worked are quiet, holidays say their name. */
function Month({ value, today, days, onChoose }: MonthProps) {
  const [at, setAt] = useState(value || today)
  function onKey(event: KeyboardEvent) {
    const steps: Record<string, string> = {
      ArrowLeft: addDays(at, -1),
      ArrowRight: addDays(at, 1),
      ArrowUp: addDays(at, -7),
      ArrowDown: addDays(at, 7),
      PageUp: addMonths(at, -1),
      PageDown: addMonths(at, 1),
    }
    const next = steps[event.key]
    if (!next) return
    event.preventDefault()
    setAt(next)
  }
  return (
    <div>
      <div className="mb-1 flex items-center justify-between">
        <Turn
          label="Month before"
          icon={<ChevronLeft size={14} />}
          onClick={() => setAt(addMonths(at, -1))}
        />
        <span aria-live="polite" className="font-semibold">
          {MONTH.format(new Date(`${at}T00:00:00Z`))}
        </span>
        <Turn label="Next month" icon={<ChevronRight size={14} />} onClick={() => setAt(addMonths(at, 1))} />
      </div>
      <table role="grid" aria-label="Days" onKeyDown={onKey} className="tabular-nums">
        <thead className="text-note text-second">
          <tr>
            {['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'].map((day) => (
              <th key={day} className="font-normal">
                {day}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {weeksOf(at).map((week) => (
            <tr key={week[0]}>
              {week.map((day) => (
                <OneDay
                  key={day}
                  day={day}
                  at={at}
                  value={value}
                  today={today}
                  days={days}
                  onChoose={onChoose}
                />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Turn({ label, icon, onClick }: { label: string; icon: ReactNode; onClick: () => void }) {
  return (
    <button type="button" aria-label={label} className="p-1.5 text-second hover:text-ink" onClick={onClick}>
      {icon}
    </button>
  )
}

/** The one that the arrows are at has the focus. */
function OneDay({ day, at, value, today, days, onChoose }: MonthProps & { day: string; at: string }) {
  const quiet = !isWorked(day, days) || day.slice(0, 7) !== at.slice(0, 7)
  const look = day === value ? 'bg-plum text-on-plum' : quiet ? 'text-second' : 'text-ink hover:bg-plum-tint'
  return (
    <td role="gridcell" aria-selected={day === value}>
      <button
        type="button"
        ref={(button) => {
          if (day === at) button?.focus()
        }}
        tabIndex={day === at ? 0 : -1}
        title={days.names.get(day)}
        aria-label={`${weekdayText(day)} ${dayText(day, '')}${days.names.has(day) ? `, ${days.names.get(day) ?? ''}` : ''}`}
        aria-current={day === today ? 'date' : undefined}
        className={`size-8 border ${day === today ? 'border-plum' : 'border-transparent'} ${days.names.has(day) ? 'underline decoration-dotted' : ''} ${look}`}
        onClick={() => onChoose(day)}
      >
        {Number(day.slice(8))}
      </button>
    </td>
  )
}
