/** What the list of letters is narrowed to and sorted by, as the address has it. */
export interface LetterSearch {
  words?: string | undefined
  view?: View | undefined
  kind?: string | undefined
  state?: LetterState | undefined
  company?: string | undefined
  late?: true | undefined
  unread?: true | undefined
  sort?: LetterSort | undefined
  up?: true | undefined
}

const VIEWS = ['mine', 'in', 'company'] as const
type View = (typeof VIEWS)[number]
export const LETTER_STATES = ['open', 'answer wanted', 'answered', 'closed'] as const
export type LetterState = (typeof LETTER_STATES)[number]
export const LETTER_SORTS = ['last', 'number', 'due', 'sent'] as const
export type LetterSort = (typeof LETTER_SORTS)[number]

/** What is no filter in an address is left out. */
export function readLetters(search: Record<string, unknown>): LetterSearch {
  const words = (key: string) => {
    const value = search[key]
    return typeof value === 'string' && value !== '' ? value.slice(0, 200) : undefined
  }
  return {
    words: words('words'),
    view: VIEWS.find((each) => each === search['view']),
    kind: words('kind'),
    state: LETTER_STATES.find((each) => each === search['state']),
    company: words('company'),
    late: search['late'] === true || undefined,
    unread: search['unread'] === true || undefined,
    sort: LETTER_SORTS.find((each) => each === search['sort']),
    up: search['up'] === true || undefined,
  }
}

export const NO_FILTER: LetterSearch = {
  words: undefined,
  view: undefined,
  kind: undefined,
  state: undefined,
  company: undefined,
  late: undefined,
  unread: undefined,
}

/** Whether fewer are shown than there are; how they are sorted is no matter. */
export function isNarrowed(search: LetterSearch): boolean {
  return Object.keys(NO_FILTER).some((key) => search[key as keyof LetterSearch] !== undefined)
}

/** How the list is asked for. */
export function askedBy({ up, ...search }: LetterSearch) {
  const asked = Object.fromEntries(Object.entries(search).filter(([, value]) => value !== undefined))
  return { ...(asked as Omit<LetterSearch, 'up'>), down: !up }
}
