import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'

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

/** What is being edited. It follows the server until the first touch and is kept from then on, whatever others do. */
export function useDraft<T>(server: T, version: number): Draft<T> {
  const [edit, setEdit] = useState<{ value: T; version: number } | null>(null)
  const dirty = edit !== null && JSON.stringify(edit.value) !== JSON.stringify(server)
  return {
    value: edit?.value ?? server,
    version: edit?.version ?? version,
    dirty,
    overtaken: dirty && edit.version !== version,
    change: (value) => setEdit((old) => ({ value, version: old?.version ?? version })),
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
      await fetchAnew(client, ['setup', 'me', 'people', 'register', 'pens'])
      draft.reset()
    },
    onError: () => client.invalidateQueries({ queryKey: ['setup'] }),
  })
}
