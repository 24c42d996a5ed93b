import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { sendOnce, type Kept } from '../../ui/useKept'

export type Arrival = Schemas['Arrival']
export type Batch = Schemas['Batch']
export type Correction = Schemas['Correction']
export type Field = 'number' | 'revision' | 'status' | 'title'

export const OPEN = new Set(['waiting', 'held'])

export function useBatches() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['batches', project.id],
    queryFn: () => unwrap(api.GET('/api/intake/batches', { params: { query: { project_id: project.id } } })),
  })
}

export function useBatch(batchId: string) {
  return useQuery({
    queryKey: ['batch', batchId],
    queryFn: () =>
      unwrap(api.GET('/api/intake/batches/{batch_id}', { params: { path: { batch_id: batchId } } })),
  })
}

export function useHeld() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['batches', project.id, 'held'],
    queryFn: () => unwrap(api.GET('/api/intake/held', { params: { query: { project_id: project.id } } })),
  })
}

function useAgain() {
  const client = useQueryClient()
  return async () => {
    await client.invalidateQueries({ queryKey: ['batch'] })
    await client.invalidateQueries({ queryKey: ['batches'] })
    await client.invalidateQueries({ queryKey: ['received'] })
  }
}

/**
 * Correct any number of files in one act; answers with what would take it back. One after the other, each at the
 * versions that are shown when its turn comes: one's own last change must not stand in the way of the next.
 */
export function useCorrect(batchId: string) {
  const again = useAgain()
  const client = useQueryClient()
  const shown = () => {
    const arrivals = client.getQueryData<Batch>(['batch', batchId])?.arrivals ?? []
    return new Map(arrivals.map((each) => [each.id, each.version]))
  }
  return useMutation({
    scope: { id: `corrections ${batchId}` },
    mutationFn: (changes: Correction[]) => {
      const now = shown()
      const body = {
        changes: changes.map((each) => ({ ...each, version: now.get(each.id) ?? each.version })),
      }
      return unwrap(
        api.POST('/api/intake/batches/{batch_id}/corrections', {
          params: { path: { batch_id: batchId } },
          body,
        }),
      )
    },
    onSettled: again,
  })
}

/** The files as they were seen, for acts that settle them. */
export function seen(arrivals: readonly { id: string; version: number }[]): Record<string, number> {
  return Object.fromEntries(arrivals.map((each) => [each.id, each.version]))
}

export function useDiscard(batchId: string) {
  const again = useAgain()
  return useMutation({
    mutationFn: ({ arrivals, reason }: { arrivals: readonly Arrival[]; reason: string }) =>
      unwrap(
        api.POST('/api/intake/batches/{batch_id}/discard', {
          params: { path: { batch_id: batchId } },
          body: { seen: seen(arrivals), reason },
        }),
      ),
    onSettled: again,
  })
}

interface Letter {
  form: Kept
  arrivals: readonly Arrival[]
  personId: string
  note: string
}

export function useSendBack(batchId: string) {
  const again = useAgain()
  return useMutation({
    mutationFn: ({ form, arrivals, personId, note }: Letter) =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/intake/batches/{batch_id}/send-back', {
            params: { path: { batch_id: batchId } },
            ...more,
            body: { seen: seen(arrivals), person_id: personId, note },
          }),
        ),
      ),
    onSettled: again,
  })
}

export function useSenders(batchId: string) {
  return useQuery({
    queryKey: ['senders', batchId],
    queryFn: () =>
      unwrap(api.GET('/api/intake/batches/{batch_id}/senders', { params: { path: { batch_id: batchId } } })),
  })
}

/** A set of sheets: taken apart, or one file again. */
export function useSet() {
  const again = useAgain()
  return useMutation({
    mutationFn: ({ arrival, apart }: { arrival: Arrival; apart: boolean }) => {
      const asked = { params: { path: { arrival_id: arrival.id } }, body: { version: arrival.version } }
      return apart
        ? unwrap(api.POST('/api/intake/arrivals/{arrival_id}/split', asked))
        : unwrap(api.POST('/api/intake/arrivals/{arrival_id}/put-together', asked))
    },
    onSettled: again,
  })
}

export function useRegister(batchId: string) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ arrivals, more }: { arrivals: Arrival[]; more: Omit<Schemas['RegisterBatch'], 'seen'> }) =>
      unwrap(
        api.POST('/api/intake/batches/{batch_id}/register', {
          params: { path: { batch_id: batchId } },
          body: { seen: seen(arrivals), ...more },
        }),
      ),
    onSettled: async () => {
      await fetchAnew(client, ['batch', 'batches', 'received', 'register', 'desk', 'document', 'sets'])
    },
  })
}

export function useChangeBatch(batchId: string) {
  const again = useAgain()
  return useMutation({
    mutationFn: (body: Schemas['ChangeBatch']) =>
      unwrap(api.PATCH('/api/intake/batches/{batch_id}', { params: { path: { batch_id: batchId } }, body })),
    onSettled: again,
  })
}

/** The file as the viewer opens it, with what changed on it. */
export function useLook(arrivalId: string, state: string) {
  return useQuery({
    queryKey: ['batch', 'look', arrivalId, state],
    queryFn: () =>
      unwrap(
        api.GET('/api/intake/arrivals/{arrival_id}/look', { params: { path: { arrival_id: arrivalId } } }),
      ),
  })
}

export type Look = NonNullable<ReturnType<typeof useLook>['data']>

/** Opens a batch whose new documents go into a folder. */
export function useOpenBatch() {
  const { project } = useSeat()
  const client = useQueryClient()
  return useMutation({
    mutationFn: (folderId: string) =>
      unwrap(
        api.POST('/api/intake/batches', {
          body: { project_id: project.id, came_from: '', folder_id: folderId },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ['batches'] }),
  })
}
