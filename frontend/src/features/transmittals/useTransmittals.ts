import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { usePages } from '../../api/pages'
import type { HoldersSearch, LogSearch } from './logSearch'

export type Line = Schemas['TransmittalLine']
export type DraftContent = Schemas['DraftContent']
export type HolderLine = Schemas['HolderLine']
export type HolderCompany = Schemas['HolderCompany']
export type DueCompany = Schemas['DueCompany']

const PAGE = 100

/** A list in pages that are counted. */
function here(total: number, all: readonly { lines: readonly unknown[] }[]) {
  const count = all.reduce((sum, each) => sum + each.lines.length, 0)
  return count < total && all.at(-1)?.lines.length ? count : undefined
}

/** What is not narrowed is not asked for. */
function asked(search: object): Record<string, string> {
  return Object.fromEntries(Object.entries(search).filter(([, value]) => value !== undefined))
}

function goOn(list: { hasNextPage: boolean; isFetchingNextPage: boolean; fetchNextPage: () => unknown }) {
  if (list.hasNextPage && !list.isFetchingNextPage) list.fetchNextPage()
}

export function useTransmittalLog(search: LogSearch) {
  const { project } = useSeat()
  const query = { project_id: project.id, limit: PAGE, ...asked(search) }
  return usePages(['transmittals', project.id, query], (start) =>
    unwrap(api.GET('/api/transmittals', { params: { query: { ...query, start } } })),
  )
}

export function useDrafts() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['drafts', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/transmittals/drafts', { params: { query: { project_id: project.id } } })),
  })
}

export function useDraft(draftId: string | undefined) {
  return useQuery({
    queryKey: ['draft', draftId],
    queryFn: () =>
      unwrapAs<Schemas['Draft']>(
        api.GET('/api/transmittals/drafts/{draft_id}', { params: { path: { draft_id: draftId ?? '' } } }),
      ),
    enabled: draftId !== undefined,
    // What a colleague keeps meanwhile must not change the page under one's hand: sending it says so.
    staleTime: Infinity,
    gcTime: 0,
  })
}

/** A page after the other, as the grid is scrolled. */
export function useHolders({ company, ...search }: HoldersSearch) {
  const { project } = useSeat()
  const query = { project_id: project.id, limit: PAGE, ...asked({ ...search, company_id: company }) }
  const list = useInfiniteQuery({
    queryKey: ['holders', query],
    queryFn: ({ pageParam }) =>
      unwrap(api.GET('/api/holders', { params: { query: { ...query, cursor: pageParam } } })),
    initialPageParam: '',
    getNextPageParam: (page) => page.cursor || undefined,
    placeholderData: keepPreviousData,
  })
  const [first] = list.data?.pages ?? []
  const lines = list.data?.pages.flatMap((page) => page.lines) ?? []
  const { companies = [], total = 0 } = first ?? {}
  return { list, lines, companies, total, more: () => goOn(list) }
}

export function useCatchUp() {
  const { project } = useSeat()
  const client = useQueryClient()
  return useMutation({
    mutationFn: (cells: Schemas['CellGiven'][]) =>
      unwrap(api.POST('/api/holders/catch-up', { body: { project_id: project.id, cells } })),
    onSettled: () => fetchAnew(client, ['drafts', 'due', 'trail']),
  })
}

export function useChase() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (transmittals: string[]) =>
      unwrap(api.POST('/api/transmittals/chase', { body: { transmittals } })),
    onSettled: () => fetchAnew(client, ['trail', 'transmittal']),
  })
}

/** What the distribution matrix owes, by company. */
export function useDue() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['due', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/transmittals/due', { params: { query: { project_id: project.id } } })),
    // Much makes something due; in a large project it takes seconds to work out, and nobody waits for it.
    refetchInterval: 60_000,
  })
}

/** Drafts of what is due to these companies. */
export function usePrepareDue() {
  const { project } = useSeat()
  const client = useQueryClient()
  return useMutation({
    mutationFn: (companies: string[]) =>
      unwrap(api.POST('/api/transmittals/due', { body: { project_id: project.id, companies } })),
    onSettled: () => fetchAnew(client, ['drafts', 'due', 'trail']),
  })
}

/** What came in from others' systems, the last that was entered first. */
export function useReceivedLog() {
  const { project } = useSeat()
  const list = useInfiniteQuery({
    queryKey: ['received', project.id, 'log'],
    queryFn: ({ pageParam }) =>
      unwrap(
        api.GET('/api/received', {
          params: { query: { project_id: project.id, start: pageParam, limit: 50 } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page, all) => here(page.total, all),
  })
  const rows = list.data?.pages.flatMap((page) => page.lines) ?? []
  return { list, rows, total: list.data?.pages[0]?.total ?? rows.length, more: () => goOn(list) }
}
