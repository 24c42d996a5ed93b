/** `1 document`, `2 documents`, `12,000 documents`; `many` where it is not made with an s. */
export function counted(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`
}

/** The same of a list that is still being read: nothing until it is known, as 0 would be a number. */
export function countedOnceRead(count: number | null, one: string, many = `${one}s`): string {
  return count === null ? '' : counted(count, one, many)
}
