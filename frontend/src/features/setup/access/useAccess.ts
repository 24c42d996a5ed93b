import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { useSeat } from '../../../api/me'

export type AccessGridData = Schemas['AccessGrid']
export type Cell = Schemas['Cell']
export type GrantSetting = Schemas['GrantSetting']
export type By = 'people' | 'roles' | 'companies'
export type LevelChoice = Schemas['ChangeAccess']['level']

export const LEVELS = ['none', 'read', 'mark', 'file', 'keep'] as const

export function useGrid(by: By) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['access', project.id, by],
    queryFn: () => unwrap(api.GET('/api/access', { params: { query: { project_id: project.id, by } } })),
    placeholderData: (old, query) => (query?.queryKey[2] === by ? old : undefined),
  })
}

export interface Wish {
  cells: Cell[]
  level: LevelChoice
  below: boolean
}

export function usePreview(wish: Wish | null, version: number) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['access', 'preview', project.id, wish, version],
    queryFn: () =>
      wish
        ? unwrap(api.POST('/api/access/preview', { body: { project_id: project.id, version, ...wish } }))
        : null,
    enabled: wish !== null,
    placeholderData: keepPreviousData,
    retry: false,
  })
}

/** Afterwards what anybody sees may be different: everything is fetched again when it is looked at. */
function useSettle() {
  const client = useQueryClient()
  return async () => {
    await fetchAnew(client, ['access', 'folders', 'people', 'trail', 'document'])
  }
}

export function useChangeAccess() {
  const { project } = useSeat()
  const settle = useSettle()
  return useMutation({
    mutationFn: ({ version, ...wish }: Wish & { version: number }) =>
      unwrap(api.POST('/api/access', { body: { project_id: project.id, version, ...wish } })),
    onSettled: settle,
  })
}

export function useSetGrants() {
  const { project } = useSeat()
  const settle = useSettle()
  return useMutation({
    mutationFn: ({ version, grants }: { version: number; grants: GrantSetting[] }) =>
      unwrap(api.POST('/api/access/grants', { body: { project_id: project.id, version, grants } })),
    onSettled: settle,
  })
}

export function useFolderActs() {
  const settle = useSettle()
  const path = (folder_id: string) => ({ path: { folder_id } })
  return {
    make: useMutation({
      mutationFn: (body: { parent_id: string; name: string }) => unwrap(api.POST('/api/folders', { body })),
      onSuccess: settle,
    }),
    rename: useMutation({
      mutationFn: ({ id, name }: { id: string; name: string }) =>
        unwrap(api.POST('/api/folders/{folder_id}/rename', { params: path(id), body: { name } })),
      onSuccess: settle,
    }),
    move: useMutation({
      mutationFn: ({ id, parent_id }: { id: string; parent_id: string }) =>
        unwrap(api.POST('/api/folders/{folder_id}/move', { params: path(id), body: { parent_id } })),
      onSuccess: settle,
    }),
    remove: useMutation({
      mutationFn: (id: string) => unwrap(api.DELETE('/api/folders/{folder_id}', { params: path(id) })),
      onSuccess: settle,
    }),
  }
}

/** What somebody else changed between two readings of the grid, in words. */
export function differences(old: AccessGridData, now: AccessGridData): string[] {
  const found: string[] = []
  now.columns.forEach((column, at) => {
    const was = old.columns.findIndex((each) => each.kind === column.kind && each.id === column.id)
    now.folders.forEach((folder, row) => {
      const before = old.levels[was]?.[old.folders.findIndex((each) => each.id === folder.id)]
      const after = now.levels[at]?.[row]
      if (before !== undefined && after !== undefined && before !== after)
        found.push(`${column.name} on ${folder.name}: ${LEVELS[Number(before)]} → ${LEVELS[Number(after)]}`)
    })
  })
  return found
}
