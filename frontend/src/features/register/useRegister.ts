import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { useCallback, useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useChanges, type Change } from '../../api/live'
import { useSeat } from '../../api/me'

export type DocumentLine = Schemas['DocumentLine']

export interface RegisterSearch {
  words?: string | undefined
  discipline?: string | undefined
  status?: string | undefined
  verdict?: string | undefined
  sort?: string | undefined
  descending?: boolean | undefined
  document?: string | undefined
}

const PAGE = 100

/** The list as the address says, a page after the other as it is scrolled. */
export function useRegisterList(search: RegisterSearch) {
  const { project } = useSeat()
  const {
    words = '',
    discipline = '',
    status = '',
    verdict = '',
    sort = 'number',
    descending = false,
  } = search
  const query = { project_id: project.id, words, discipline, status, verdict, sort, descending, limit: PAGE }
  return useInfiniteQuery({
    queryKey: ['register', query],
    queryFn: ({ pageParam }) =>
      unwrap(api.GET('/api/documents', { params: { query: { ...query, cursor: pageParam } } })),
    initialPageParam: '',
    getNextPageParam: (page) => page.cursor || undefined,
    placeholderData: keepPreviousData,
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
