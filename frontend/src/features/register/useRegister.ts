import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useChanges, type Change } from '../../api/live'
import { useSeat } from '../../api/me'
import { asked, type RegisterSearch } from './registerSearch'

export type DocumentLine = Schemas['DocumentLine']
export type ColumnShown = Schemas['ColumnShown']
export type DocumentChange = Schemas['DocumentChange']

const PAGE = 100

/** The list as the address says, a page after the other as it is scrolled. */
export function useRegisterList(search: RegisterSearch) {
  const { project } = useSeat()
  const query = { project_id: project.id, ...asked(search), limit: PAGE }
  return useInfiniteQuery({
    queryKey: ['register', query],
    queryFn: ({ pageParam }) =>
      unwrap(api.GET('/api/documents', { params: { query: { ...query, cursor: pageParam } } })),
    initialPageParam: '',
    getNextPageParam: (page) => page.cursor || undefined,
    placeholderData: keepPreviousData,
  })
}

/** The list from its end backwards, once somebody went there. */
export function useRegisterTail(search: RegisterSearch, wanted: boolean) {
  const { project } = useSeat()
  const query = { project_id: project.id, ...asked(search), limit: PAGE, from_end: true }
  const tail = useInfiniteQuery({
    queryKey: ['register', query],
    queryFn: ({ pageParam }) =>
      unwrap(api.GET('/api/documents', { params: { query: { ...query, cursor: pageParam } } })),
    initialPageParam: '',
    getNextPageParam: (page) => page.cursor || undefined,
    enabled: wanted,
  })
  const rows = useMemo(
    () => [...(tail.data?.pages ?? [])].reverse().flatMap((page) => page.lines),
    [tail.data],
  )
  return { tail, rows }
}

/** All columns of the project, and those shown unless others are chosen. */
export function useColumns() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['register-columns', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/register/columns', { params: { query: { project_id: project.id } } })),
    staleTime: 30_000,
  })
}

/** The values a column has in the register, with counts. */
export function useValues(column: string, enabled: boolean) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['register-values', project.id, column],
    queryFn: () =>
      unwrap(api.GET('/api/register/values', { params: { query: { project_id: project.id, column } } })),
    enabled,
  })
}

/** Everything that shows documents is read again. */
export function useReadAgain() {
  const client = useQueryClient()
  return useCallback(() => {
    void fetchAnew(client, [
      'register',
      'document',
      'register-values',
      'register-columns',
      'trail',
      'check-outs',
      'sets',
      'set',
    ])
  }, [client])
}

/** Changes documents; answers with what would take it back. */
export function useChangeDocuments() {
  const { project } = useSeat()
  const again = useReadAgain()
  return useMutation({
    mutationFn: (changes: DocumentChange[]) =>
      unwrap(api.POST('/api/documents/change', { body: { project_id: project.id, changes } })),
    onSettled: again,
  })
}

/** Whether others changed the register since it was fetched: the list does not jump, it says so. */
export function useOthersChanged(): [boolean, () => void] {
  const { me } = useSeat()
  const [changed, setChanged] = useState(false)
  const listen = useCallback(
    (change: Change) => {
      if (change.topic === 'register' && change.by !== me.person.id) setChanged(true)
    },
    [me.person.id],
  )
  useChanges(listen)
  return [changed, useCallback(() => setChanged(false), [])]
}
