/** A view of the register as the address bar holds it; a link shows the same list. */
export interface RegisterSearch {
  words?: string | undefined
  /** [column, op, value, …] each. */
  filters?: string[][] | undefined
  /** [column, "up" or "down"] each. */
  sorts?: string[][] | undefined
  group?: string | undefined
  shut?: string[] | undefined
  /** Columns in order, each with its width in px; 0 for the usual. */
  columns?: [string, number][] | undefined
  frozen?: number | undefined
  look?: 'pictures' | undefined
  document?: string | undefined
  /** Of its dossier. */
  tab?: string | undefined
}

const text = (value: unknown) => (typeof value === 'string' && value !== '' ? value : undefined)

function lists(value: unknown): string[][] | undefined {
  if (!Array.isArray(value)) return undefined
  const found = value.filter(
    (each): each is string[] => Array.isArray(each) && each.every((one) => typeof one === 'string'),
  )
  return found.length ? found : undefined
}

function columnsOf(value: unknown): [string, number][] | undefined {
  if (!Array.isArray(value)) return undefined
  const found = value.filter(
    (each): each is [string, number] =>
      Array.isArray(each) && typeof each[0] === 'string' && typeof each[1] === 'number',
  )
  return found.length ? found : undefined
}

/** What of an address is a view; the rest of it is left out. */
export function readSearch(search: Record<string, unknown>): RegisterSearch {
  const shut = search['shut']
  return clean({
    words: text(search['words']),
    filters: lists(search['filters']),
    sorts: lists(search['sorts']),
    group: text(search['group']),
    shut: Array.isArray(shut) ? shut.filter((each): each is string => typeof each === 'string') : undefined,
    columns: columnsOf(search['columns']),
    frozen: typeof search['frozen'] === 'number' ? search['frozen'] : undefined,
    look: search['look'] === 'pictures' ? 'pictures' : undefined,
    document: text(search['document']),
    tab: text(search['tab']),
  })
}

/** Without what says nothing, so that addresses stay short. */
export function clean(search: RegisterSearch): RegisterSearch {
  return Object.fromEntries(
    Object.entries(search).filter(([, value]) => {
      if (Array.isArray(value)) return value.length > 0
      return value !== '' && value !== undefined && value !== 0
    }),
  )
}

/** What of an address a saved view keeps: all but the document that is open. */
export function viewOf(search: RegisterSearch): RegisterSearch {
  return clean({ ...readSearch({ ...search }), document: undefined, tab: undefined })
}

/** The list's order after a click on a head: by it alone, or with Shift also by it; a second click turns it. */
export function sortedBy(sorts: string[][] | undefined, key: string, more: boolean): string[][] {
  const now = sorts ?? [['number', 'up']]
  const place = now.findIndex(([column]) => column === key)
  const turned = [key, place >= 0 && now[place]?.[1] === 'up' ? 'down' : 'up']
  if (!more) return [turned]
  return place >= 0 ? now.map((each, at) => (at === place ? turned : each)) : [...now, turned]
}

/** Words typed into the filter line, as the server takes them. */
export function asked(search: RegisterSearch) {
  return {
    words: search.words ?? '',
    filters: search.filters ? JSON.stringify(search.filters) : '',
    sorts: search.sorts ? JSON.stringify(search.sorts) : '',
    group: search.group ?? '',
    shut: search.group && search.shut ? JSON.stringify(search.shut) : '',
  }
}

/** The folder that a list is narrowed to, by its id; empty without one. */
export function folderOf(search: RegisterSearch): string {
  const filter = search.filters?.find(([column, op]) => column === 'folder' && op === 'is')
  return filter?.[2] ?? ''
}
