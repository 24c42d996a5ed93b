/** What the log of reviews is narrowed to, as the address has it. */
export interface LogSearch {
  words?: string | undefined
  whose?: 'with_me' | 'my_company' | 'started' | undefined
  state?: 'running' | 'closed' | 'cancelled' | 'recalled' | undefined
  late?: boolean | undefined
  route?: string | undefined
  document?: string | undefined
}

const WHOSE = ['with_me', 'my_company', 'started'] as const
const STATES = ['running', 'closed', 'cancelled', 'recalled'] as const

/** What is no filter in an address is left out. */
export function readLog(search: Record<string, unknown>): LogSearch {
  const words = (key: string) => {
    const value = search[key]
    return typeof value === 'string' && value !== '' ? value.slice(0, 200) : undefined
  }
  return {
    words: words('words'),
    whose: WHOSE.find((each) => each === search['whose']),
    state: STATES.find((each) => each === search['state']),
    late: search['late'] === true ? true : undefined,
    route: words('route'),
    document: words('document'),
  }
}

export function isNarrowed(search: LogSearch): boolean {
  return Object.values(search).some((value) => value !== undefined)
}
