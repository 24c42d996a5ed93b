/** What the log of submittals is narrowed to and sorted by, as the address has it. */
export interface SubmittalSearch {
  words?: string | undefined
  view?: 'mine' | 'copied' | 'company' | undefined
  state?: State | undefined
  late?: true | undefined
  company?: string | undefined
  kind?: string | undefined
  sort?: Sort | undefined
  down?: true | undefined
}

const VIEWS = ['mine', 'copied', 'company'] as const
const SORTS = ['float', 'number', 'required', 'latest', 'due', 'section'] as const
export const STATES = [
  'planned',
  'asked for',
  'in preparation',
  'sent in',
  'under review',
  'answered',
  'closed',
  'void',
] as const

export type State = (typeof STATES)[number]
export type Sort = (typeof SORTS)[number]

/** What is no filter in an address is left out. */
export function readSubmittals(search: Record<string, unknown>): SubmittalSearch {
  const words = (key: string) => {
    const value = search[key]
    return typeof value === 'string' && value !== '' ? value.slice(0, 200) : undefined
  }
  return {
    words: words('words'),
    view: VIEWS.find((each) => each === search['view']),
    state: STATES.find((each) => each === search['state']),
    late: search['late'] === true || undefined,
    company: words('company'),
    kind: words('kind'),
    sort: SORTS.find((each) => each === search['sort']),
    down: search['down'] === true || undefined,
  }
}

const FILTERS = ['words', 'view', 'state', 'late', 'company', 'kind'] as const

/** Whether fewer are shown than there are; how they are sorted is no matter. */
export function isNarrowed(search: SubmittalSearch): boolean {
  return FILTERS.some((each) => search[each] !== undefined)
}
