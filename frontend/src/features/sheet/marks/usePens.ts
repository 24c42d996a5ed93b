import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../../api/client'

export type Pen = Schemas['PenShown']
export type Rolls = Schemas['PenRolls']

/** What a pen draws with: its own look, in the ink that the project's convention gives it. */
export const lookOf = (pen: Pen): NonNullable<Pen['look']> =>
  pen.ink ? { ...pen.look, colour: pen.ink } : (pen.look ?? {})

interface Kept {
  pens: Pen[]
  shared: boolean
}

/** One's own roll of pens in the project, and the project's. */
export function usePens(projectId: string) {
  const client = useQueryClient()
  const key = ['pens', projectId] as const
  const keeping = useMutation({
    // One after the other, each with the version that the one before has left.
    scope: { id: `pens ${projectId}` },
    mutationFn: async ({ pens, shared }: Kept) => {
      const now = client.getQueryData<Rolls>(key)
      const version = (shared ? now?.project_version : now?.own_version) ?? 0
      const body = { project_id: projectId, shared, version, pens }
      const kept = await unwrapAs<Schemas['PensKept']>(api.PUT('/api/pens', { body }))
      client.setQueryData<Rolls>(
        key,
        (old) => old && { ...old, [shared ? 'project_version' : 'own_version']: kept.version },
      )
    },
    onError: () => client.invalidateQueries({ queryKey: key }),
  })
  return {
    rolls: useQuery({
      queryKey: key,
      queryFn: () => unwrapAs<Rolls>(api.GET('/api/pens', { params: { query: { project_id: projectId } } })),
    }),
    error: keeping.error,
    /** The roll as it is from now on; shown at once. */
    keep: (shared: boolean, change: (now: readonly Pen[]) => Pen[]) => {
      const name = shared ? 'project' : 'own'
      const now = client.getQueryData<Rolls>(key)
      if (!now) return
      // From what is kept, not from what is drawn: a second press may come before the list is drawn anew.
      const pens = change(now[name])
      client.setQueryData<Rolls>(key, { ...now, [name]: pens })
      keeping.mutate({ pens, shared })
    },
  }
}

/** A roll out of a file; anything else in it is left to the server to refuse. */
export function rollFrom(text: string): Pen[] {
  const read: unknown = JSON.parse(text)
  const pens = read && typeof read === 'object' && 'pens' in read ? read.pens : null
  if (!Array.isArray(pens)) throw new Error('This file is no roll of pens.')
  return pens as Pen[]
}
