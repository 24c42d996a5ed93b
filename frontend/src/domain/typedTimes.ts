/** Times of the day as people type them, and what an instant is in the zone of whoever looks. */

const TIME = /^\s*(\d{1,2})(?:[:.h]?(\d{2}))?\s*(am|pm)?\s*$/i

/** Minutes since midnight of `9`, `9:30`, `930`, `14.05`, `2 pm`; null for what is no time. */
export function readTime(text: string): number | null {
  const found = TIME.exec(text)
  if (!found) return null
  const [, hours = '', minutes = '0', half = ''] = found
  const hour = hourOf(Number(hours), half.toLowerCase())
  return hour === null || Number(minutes) > 59 ? null : hour * 60 + Number(minutes)
}

/** Of the clock with 24 hours; `half` is `am`, `pm` or nothing. */
function hourOf(hours: number, half: string): number | null {
  if (!half) return hours > 23 ? null : hours
  if (hours < 1 || hours > 12) return null
  return (hours % 12) + (half === 'pm' ? 12 : 0)
}

/** `09:05` of minutes since midnight. */
export function timeText(minutes: number): string {
  return `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`
}

/** The instant of a day (`2027-03-14`) and minutes since midnight, in the zone of this browser. */
export function instantOf(day: string, minutes: number): string {
  const [year = 0, month = 1, date = 1] = day.split('-').map(Number)
  return new Date(year, month - 1, date, Math.floor(minutes / 60), minutes % 60).toISOString()
}

/** The day of an instant in the zone of this browser, and its minutes since midnight. */
export function dayAndMinutes(instant: string): [string, number] {
  const at = new Date(instant)
  const two = (value: number) => String(value).padStart(2, '0')
  const day = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`
  return [day, at.getHours() * 60 + at.getMinutes()]
}

/** How long it is from one instant to another, in words: `1 h 20 min`, `3 d 4 h`; empty where it is over. */
export function lengthText(from: number, to: number): string {
  const minutes = Math.floor((to - from) / 60_000)
  if (minutes < 0) return ''
  if (minutes < 60) return `${minutes} min`
  const hours = Math.floor(minutes / 60)
  if (hours < 24) return minutes % 60 ? `${hours} h ${minutes % 60} min` : `${hours} h`
  const days = Math.floor(hours / 24)
  return hours % 24 ? `${days} d ${hours % 24} h` : `${days} d`
}
