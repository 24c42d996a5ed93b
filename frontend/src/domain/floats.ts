const words = (float: number | null) => (float === null ? 'not known' : String(float))

/** `12 → -3`; of a new one, or where nothing changes, only what it is. */
export function floatChange(before: number | null, after: number | null, isNew: boolean): string {
  return isNew || before === after ? words(after) : `${words(before)} → ${words(after)}`
}
