interface OfSet {
  of_set: string
}

/** Names of a project's sets of verdicts, in their order; the usual one is empty. */
export function setsOf(verdicts: readonly OfSet[]): string[] {
  return [...new Set(verdicts.map((each) => each.of_set))]
}

export function inSet<V extends OfSet>(verdicts: readonly V[], name: string): V[] {
  return verdicts.filter((each) => each.of_set === name)
}
