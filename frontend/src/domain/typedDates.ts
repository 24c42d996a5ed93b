/** Dates as people type them: `14 Mar 2027`, `14.3.`, `14/3/27`, `14 mar`, `2027-03-14`, `today`, `+5` working days. */

export interface WorkingDays {
  /** 0 is Monday. */
  weekdays: readonly number[]
  /** Days as `2027-03-26` that are not worked. */
  holidays: ReadonlySet<string>
}

/** Which of day and month comes first where both are figures with a stroke between. */
export type DateOrder = 'day first' | 'month first'

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const DAY_MS = 24 * 3600 * 1000
const MOST_DAYS = 3700

const ticks = (iso: string) => Date.parse(`${iso}T00:00:00Z`)
const isoOf = (at: number) => new Date(at).toISOString().slice(0, 10)

export const addDays = (iso: string, days: number) => isoOf(ticks(iso) + days * DAY_MS)
/** 0 is Monday. */
export const weekdayOf = (iso: string) => (new Date(ticks(iso)).getUTCDay() + 6) % 7
export const weekdayText = (iso: string) => WEEKDAYS[weekdayOf(iso)] ?? ''

/** The same day of another month, or its last day where it has none such. */
export function addMonths(iso: string, months: number): string {
  const [year = 0, month = 1, day = 1] = iso.split('-').map(Number)
  const last = new Date(Date.UTC(year, month - 1 + months + 1, 0))
  return isoOf(Math.min(last.getTime(), Date.UTC(year, month - 1 + months, day)))
}

/** The days of a month in weeks that begin on Monday, those of its neighbours with it. */
export function weeksOf(iso: string): string[][] {
  const first = `${iso.slice(0, 8)}01`
  const from = addDays(first, -weekdayOf(first))
  const weeks = [0, 7, 14, 21, 28, 35].map((week) =>
    [0, 1, 2, 3, 4, 5, 6].map((day) => addDays(from, week + day)),
  )
  return weeks.filter((week) => week.some((day) => day.slice(0, 7) === iso.slice(0, 7)))
}

export const isWorked = (iso: string, days: WorkingDays) =>
  days.weekdays.includes(weekdayOf(iso)) && !days.holidays.has(iso)

/** The `count`-th working day after a day, or before it; null where there is none within ten years. */
export function addWorkingDays(iso: string, count: number, days: WorkingDays): string | null {
  if (count === 0 && isWorked(iso, days)) return iso
  const step = count < 0 ? -1 : 1
  let left = Math.max(1, Math.abs(count))
  let day = iso
  for (let tried = 0; tried < MOST_DAYS; tried += 1) {
    day = addDays(day, step)
    if (isWorked(day, days)) left -= 1
    if (left === 0) return day
  }
  return null
}

/** What the person's language puts first. */
export function orderOf(language: string): DateOrder {
  const parts = new Intl.DateTimeFormat(language).formatToParts(new Date(Date.UTC(2027, 2, 14)))
  const place = (type: string) => parts.findIndex((part) => part.type === type)
  return place('month') < place('day') ? 'month first' : 'day first'
}

interface Reading {
  today: string
  order: DateOrder
  days: WorkingDays
}

/** The day meant, as `2027-03-14`; null where the text is no day. Without a year it is the one nearest to today. */
export function readDay(text: string, { today, order, days }: Reading): string | null {
  const said = text.trim().toLowerCase()
  if (said === 'today') return today
  if (said === 'tomorrow') return addDays(today, 1)
  const ahead = /^\+ ?(\d{1,3})$/.exec(said)
  if (ahead) return addWorkingDays(today, Number(ahead[1]), days)
  const found = partsOf(said.replace(/^(mon|tue|wed|thu|fri|sat|sun)[a-z]*[ ,]+/, ''), order)
  if (!found) return null
  const year = yearOf(found, today)
  return dated(year, found.month, found.day)
}

interface Parts {
  day: number
  month: number
  year: string
}

function partsOf(said: string, order: DateOrder): Parts | null {
  return asIso(said) ?? asWords(said) ?? asFigures(said, order)
}

function asIso(said: string): Parts | null {
  const [, year = '', month, day] = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(said) ?? []
  return year ? { year, month: Number(month), day: Number(day) } : null
}

/** `14 mar 27`, or `mar 14, 2027`. */
function asWords(said: string): Parts | null {
  const [, day, word = '', year = ''] =
    /^(\d{1,2})(?:st|nd|rd|th)?[ .-]*([a-z]{3,9})\.?[ ,-]*(\d{4}|\d{2})?$/.exec(said) ??
    swapped(/^([a-z]{3,9})\.?[ -]*(\d{1,2})(?:st|nd|rd|th)?(?:[ ,]+(\d{4}|\d{2}))?$/.exec(said))
  const month = monthOf(word)
  return month ? { day: Number(day), month, year } : null
}

/** `14.3.`, `14/3/27`, `14 3 2027`; with full stops it is day and month wherever it is written. */
function asFigures(said: string, order: DateOrder): Parts | null {
  const [, one, between, other, year = ''] =
    /^(\d{1,2})([./ -])(\d{1,2})(?:\2? ?(\d{4}|\d{2}))?\.?$/.exec(said) ?? []
  if (!one) return null
  const monthFirst = order === 'month first' && between !== '.'
  const [day, month] = monthFirst ? [other, one] : [one, other]
  return { day: Number(day), month: Number(month), year }
}

const swapped = (found: RegExpExecArray | null): (string | undefined)[] =>
  found ? [found[0], found[2], found[1], found[3]] : []

const NAMES = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
]

function monthOf(word: string): number {
  const place = MONTHS.indexOf(word.slice(0, 3))
  return place >= 0 && (word === 'sept' || (NAMES[place] ?? '').startsWith(word)) ? place + 1 : 0
}

function yearOf({ day, month, year }: Parts, today: string): number {
  if (year.length === 4) return Number(year)
  if (year) return 2000 + Number(year)
  const present = Number(today.slice(0, 4))
  const away = (candidate: number) => {
    const on = dated(candidate, month, day)
    return on ? Math.abs(ticks(on) - ticks(today)) : Infinity
  }
  // 29 February is in the nearest year that has one.
  const years = [0, 1, -1, 2, -2, 3, -3, 4, -4].map((by) => present + by)
  return years.reduce((best, candidate) => (away(candidate) < away(best) ? candidate : best), present)
}

function dated(year: number, month: number, day: number): string | null {
  const at = new Date(Date.UTC(year, month - 1, day))
  const real = at.getUTCFullYear() === year && at.getUTCMonth() === month - 1 && at.getUTCDate() === day
  return real && year >= 1900 ? isoOf(at.getTime()) : null
}
