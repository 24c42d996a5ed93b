/** What the log of transmittals is narrowed to, as the address has it. */
export interface LogSearch {
  words?: string | undefined
  document?: string | undefined
  way?: 'out' | 'in' | undefined
  state?: 'waiting' | 'overdue' | 'acknowledged' | 'back' | 'void' | undefined
  purpose?: string | undefined
  company?: string | undefined
}

const WAYS = ['out', 'in'] as const
const STATES = ['waiting', 'overdue', 'acknowledged', 'back', 'void'] as const

/** What is no filter in an address is left out. */
export function readLog(search: Record<string, unknown>): LogSearch {
  const words = (key: string) => {
    const value = search[key]
    return typeof value === 'string' && value !== '' ? value.slice(0, 200) : undefined
  }
  return {
    words: words('words'),
    document: words('document'),
    way: WAYS.find((each) => each === search['way']),
    state: STATES.find((each) => each === search['state']),
    purpose: words('purpose'),
    company: words('company'),
  }
}

export function isNarrowed(search: LogSearch): boolean {
  return Object.values(search).some((value) => value !== undefined)
}

export type HolderState = 'behind' | 'not_acknowledged' | 'ahead' | 'in_step' | 'withdrawn' | 'held' | 'never'

/** What the grid of holders is narrowed to. */
export interface HoldersSearch {
  words?: string | undefined
  state?: HolderState | undefined
  company?: string | undefined
}

const HOLDER_STATES = [
  'behind',
  'not_acknowledged',
  'ahead',
  'in_step',
  'withdrawn',
  'held',
  'never',
] as const

export function readHolders(search: Record<string, unknown>): HoldersSearch {
  const words = (key: string) => {
    const value = search[key]
    return typeof value === 'string' && value !== '' ? value.slice(0, 200) : undefined
  }
  return {
    words: words('words'),
    state: HOLDER_STATES.find((each) => each === search['state']),
    company: words('company'),
  }
}
