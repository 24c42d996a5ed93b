import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

import { api, unwrap, type Schemas } from './client'
import { useSeat } from './me'

export type Bell = Schemas['Bell']

/** What I was told in this project. */
export function useBell() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['notices', project.id],
    queryFn: () => unwrap(api.GET('/api/notices', { params: { query: { project_id: project.id } } })),
    staleTime: 60_000,
  })
}

/** Says that I have looked at a thing, or without one at all that I was told; the bell is fetched anew. */
export function useNoteLookedAt() {
  const { project } = useSeat()
  const client = useQueryClient()
  return async (kind = '', target = '') => {
    await unwrap(api.POST('/api/notices/looked-at', { body: { project_id: project.id, kind, target } }))
    await client.invalidateQueries({ queryKey: ['notices'] })
  }
}

/** Whoever has this open has looked at it: what tells of it is read. Nothing is said where nothing is unread. */
export function useLookedAt(kind: string, target: string | undefined) {
  const { me } = useSeat()
  const bell = useBell()
  const note = useNoteLookedAt()
  const unread =
    !me.looker &&
    target !== undefined &&
    (bell.data?.notices ?? []).some(
      (each) => each.unread && each.about.some(([of, id]) => of === kind && id === target),
    )
  useEffect(() => {
    // A refusal leaves it unread; the next look tries again.
    if (unread) note(kind, target).catch(() => undefined)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each thing that has something unread
  }, [unread, kind, target])
}
