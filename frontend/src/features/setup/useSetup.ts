import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { useField, useKept, type Kept } from '../../ui/useKept'

export type Setup = Schemas['Setup']

export function useSetup() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['setup', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/projects/{project_id}/setup', { params: { path: { project_id: project.id } } })),
  })
}

export interface Draft<T> {
  kept: Kept
  value: T
  /** The version that was there when the editing began: what is saved goes with it. */
  version: number
  dirty: boolean
  /** Somebody saved since the editing began. */
  overtaken: boolean
  change: (value: T) => void
  reset: () => void
  keepMine: () => void
}

/**
 * What is being edited of a part of the set-up. It follows the server until the first touch and is kept from then on,
 * whatever others do.
 */
export function useDraft<T>(part: string, server: T, version: number): Draft<T> {
  const { project } = useSeat()
  const kept = useKept('set-up', `${project.id} ${part}`, `${part}, ${project.number}`)
  const [edit, setEdit] = useField<{ value: T; version: number } | null>(kept, 'edit', null)
  const dirty = edit !== null && JSON.stringify(edit.value) !== JSON.stringify(server)
  return {
    kept,
    value: edit?.value ?? server,
    version: edit?.version ?? version,
    dirty,
    overtaken: dirty && edit.version !== version,
    change: (value) =>
      setEdit((old) =>
        JSON.stringify(value) === JSON.stringify(server) ? null : { value, version: old?.version ?? version },
      ),
    reset: () => setEdit(null),
    keepMine: () => setEdit((old) => old && { ...old, version }),
  }
}

/** Saves a part of the set-up; afterwards the draft follows the server again. */
export function useSave<T>(draft: Draft<T>, save: (value: T, version: number) => Promise<unknown>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: () => save(draft.value, draft.version),
    onSuccess: async () => {
      await fetchAnew(client, ['setup', 'days', 'me', 'people', 'register', 'pens'])
      draft.reset()
    },
    onError: () => client.invalidateQueries({ queryKey: ['setup'] }),
  })
}
