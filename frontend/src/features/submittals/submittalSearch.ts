/** What the log of submittals is narrowed to and sorted by, as the address has it. */
export interface SubmittalSearch {
  words?: string | undefined
  view?: 'mine' | 'copied' | 'company' | undefined
  state?: State | undefined
  late?: true | undefined
  company?: string | undefined
  kind?: string | undefined
  /** Of which a company has answered a round. */
  answered_by?: string | undefined
  /** Whose answer a company still owes. */
  waits_for?: string | undefined
  /** Answered to proceed in their so-manieth round. */
  took?: number | undefined
  /** Whose float was below 0 on a day. */
  late_on?: string | undefined
  sort?: Sort | undefined
  down?: true | undefined
  group?: GroupBy | undefined
  /** Keys of the groups that are shut. */
  shut?: string[] | undefined
  columns?: [string, number][] | undefined
  frozen?: number | undefined
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
const GROUPS = ['company', 'section', 'kind', 'state'] as const
export type GroupBy = (typeof GROUPS)[number]
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
    answered_by: words('answered_by'),
    waits_for: words('waits_for'),
    took: Number.isInteger(search['took']) && Number(search['took']) > 0 ? Number(search['took']) : undefined,
    late_on: isDay(search['late_on']) ? search['late_on'] : undefined,
    sort: SORTS.find((each) => each === search['sort']),
    down: search['down'] === true || undefined,
    group: GROUPS.find((each) => each === search['group']),
    shut: strings(search['shut']),
    columns: columnsIn(search['columns']),
    frozen: typeof search['frozen'] === 'number' && search['frozen'] > 0 ? search['frozen'] : undefined,
  }
}

function isDay(value: unknown): value is string {
  return typeof value === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(value)
}

function strings(value: unknown): string[] | undefined {
  const found = Array.isArray(value) ? value.filter((each): each is string => typeof each === 'string') : []
  return found.length ? found : undefined
}

function columnsIn(value: unknown): [string, number][] | undefined {
  const found = Array.isArray(value)
    ? value.filter(
        (each): each is [string, number] =>
          Array.isArray(each) && typeof each[0] === 'string' && typeof each[1] === 'number',
      )
    : []
  return found.length ? found : undefined
}

const FILTERS = [
  'words',
  'view',
  'state',
  'late',
  'company',
  'kind',
  'answered_by',
  'waits_for',
  'took',
  'late_on',
] as const

/** Whether fewer are shown than there are; how they are sorted is no matter. */
export function isNarrowed(search: SubmittalSearch): boolean {
  return FILTERS.some((each) => search[each] !== undefined)
}

/** Whether it is what a figure of the analysis led to. */
export function isLookedInto(search: SubmittalSearch): boolean {
  return (['answered_by', 'waits_for', 'took', 'late_on'] as const).some((each) => search[each] !== undefined)
}

/** What of it the log is asked by: filters and order, without how it is laid out. */
export function narrowedBy({ group, shut, columns, frozen, ...asked }: SubmittalSearch) {
  void [group, shut, columns, frozen]
  return Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== undefined)) as typeof asked
}
