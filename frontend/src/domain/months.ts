/** `2027-03` and so many months on; before, where it is negative. */
export function monthAfter(month: string, count: number): string {
  const [year = 0, number = 1] = month.split('-').map(Number)
  const months = year * 12 + (number - 1) + count
  return `${Math.floor(months / 12)}-${`${(months % 12) + 1}`.padStart(2, '0')}`
}

const NAMES = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
]

/** `March 2027`. */
export function monthWords(month: string): string {
  const [year = 0, number = 1] = month.split('-').map(Number)
  return `${NAMES[number - 1]} ${year}`
}
