/** What the log of sessions is narrowed to, as the address has it. */
export interface SessionSearch {
  words?: string | undefined
  document?: string | undefined
  state?: 'to come' | 'open' | 'closed' | undefined
  mine?: true | undefined
}

const STATES = ['to come', 'open', 'closed'] as const

/** What is no filter in an address is left out. */
export function readSessions(search: Record<string, unknown>): SessionSearch {
  const words = (key: string) => {
    const value = search[key]
    return typeof value === 'string' && value !== '' ? value.slice(0, 200) : undefined
  }
  return {
    words: words('words'),
    document: words('document'),
    state: STATES.find((each) => each === search['state']),
    mine: search['mine'] === true || undefined,
  }
}

export function isNarrowed(search: SessionSearch): boolean {
  return Object.values(search).some((value) => value !== undefined)
}
