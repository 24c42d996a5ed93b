/** Dates as Nod writes them: `14 Mar` this year, `14 Mar 2027` otherwise; times in the project's zone. */

const cache = new Map<string, Intl.DateTimeFormat>()

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = zone + JSON.stringify(options)
  let known = cache.get(key)
  if (!known) {
    known = new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options })
    cache.set(key, known)
  }
  return known
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']

/** `iso` is a calendar day, `2027-03-14`; `today` another, which tells the present year. */
export function dayText(iso: string, today: string): string {
  const [year, month, day] = iso.split('-')
  const short = `${Number(day)} ${MONTHS[Number(month) - 1] ?? ''}`
  return year === today.slice(0, 4) ? short : `${short} ${year}`
}

/** The calendar day of an instant in a zone, as `2027-03-14`. */
export function dayOf(instant: string, zone: string): string {
  const parts = format(zone, { year: 'numeric', month: '2-digit', day: '2-digit' }).formatToParts(
    new Date(instant),
  )
  const part = (type: string) => parts.find((each) => each.type === type)?.value ?? ''
  return `${part('year')}-${part('month')}-${part('day')}`
}

/** The day of an instant; with `time`, also hours and minutes. */
export function instantText(instant: string, zone: string, today: string, time = false): string {
  const day = dayText(dayOf(instant, zone), today)
  return time
    ? `${day}, ${format(zone, { hour: '2-digit', minute: '2-digit' }).format(new Date(instant))}`
    : day
}

/** The whole truth, for hovering: day, time and zone. */
export function fullInstant(instant: string, zone: string): string {
  return format(zone, {
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    timeZoneName: 'long',
  }).format(new Date(instant))
}
