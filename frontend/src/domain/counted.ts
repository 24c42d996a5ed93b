/** `1 document`, `2 documents`, `12,000 documents`; `many` where it is not made with an s. */
export function counted(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`
}
