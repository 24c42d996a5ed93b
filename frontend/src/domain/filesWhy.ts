interface Coming {
  settled: boolean
  there: readonly unknown[]
}

/** Why what goes with files cannot be sent yet; `missing` where there has to be one. */
export function filesWhy(attaching: Coming, missing: string): string | false {
  if (!attaching.settled) return 'A file is still on its way.'
  return !attaching.there.length && missing
}
