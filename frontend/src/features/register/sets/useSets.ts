import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { useSeat } from '../../../api/me'

export type DrawingSet = Schemas['DrawingSet']

export function useSets() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['sets', project.id],
    queryFn: () => unwrap(api.GET('/api/sets', { params: { query: { project_id: project.id } } })),
  })
}

export function useSet(id: string | undefined) {
  return useQuery({
    queryKey: ['set', id],
    queryFn: () => unwrap(api.GET('/api/sets/{set_id}', { params: { path: { set_id: id ?? '' } } })),
    enabled: Boolean(id),
  })
}

/** Every act on drawing sets reads them, and the register, again. */
export function useSetActs() {
  const { project } = useSeat()
  const client = useQueryClient()
  const again = () => {
    void fetchAnew(client, ['sets', 'set', 'register', 'register-columns', 'register-values'])
  }
  const make = useMutation({
    mutationFn: ({ name, on }: { name: string; on: string }) =>
      unwrap(api.POST('/api/sets', { body: { project_id: project.id, name, on: on || null } })),
    onSettled: again,
  })
  const change = useMutation({
    mutationFn: ({ set, name, on }: { set: DrawingSet; name: string; on: string }) =>
      unwrap(
        api.POST('/api/sets/{set_id}', {
          params: { path: { set_id: set.id } },
          body: { version: set.version, name, on: on || null },
        }),
      ),
    onSettled: again,
  })
  const remove = useMutation({
    mutationFn: (set: DrawingSet) =>
      unwrap(
        api.POST('/api/sets/{set_id}/remove', {
          params: { path: { set_id: set.id } },
          body: { version: set.version },
        }),
      ),
    onSettled: again,
  })
  const bringBack = useMutation({
    mutationFn: (id: string) =>
      unwrap(api.POST('/api/sets/{set_id}/bring-back', { params: { path: { set_id: id } } })),
    onSettled: again,
  })
  const put = useMutation({
    mutationFn: ({ id, version, documents }: { id: string; version: number; documents: string[] }) =>
      unwrap(
        api.POST('/api/sets/{set_id}/sheets', {
          params: { path: { set_id: id } },
          body: { version, documents },
        }),
      ),
    onSettled: again,
  })
  const addByView = useMutation({
    mutationFn: ({
      id,
      version,
      words,
      filters,
    }: {
      id: string
      version: number
      words: string
      filters: string
    }) =>
      unwrap(
        api.POST('/api/sets/{set_id}/add', {
          params: { path: { set_id: id } },
          body: { version, words, filters },
        }),
      ),
    onSettled: again,
  })
  return { make, change, remove, bringBack, put, addByView }
}
