import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'

export type Arrival = Schemas['Arrival']
export type Batch = Schemas['Batch']
export type Field = 'number' | 'revision' | 'status' | 'title'

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

/** Correct one field of one file; the list follows at once and comes back if it was refused. */
export function useCorrect(batchId: string) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ arrival, field, value }: { arrival: Arrival; field: Field; value: string }) =>
      unwrap(
        api.PATCH('/api/intake/arrivals/{arrival_id}', {
          params: { path: { arrival_id: arrival.id } },
          body: { version: arrival.version, [field]: value },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ['batch', batchId] }),
  })
}

export function useDiscard(batchId: string) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ arrival, reason }: { arrival: Arrival; reason: string }) =>
      unwrap(
        api.POST('/api/intake/arrivals/{arrival_id}/discard', {
          params: { path: { arrival_id: arrival.id } },
          body: { version: arrival.version, reason },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ['batch', batchId] }),
  })
}

export function useRegister(batchId: string) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (arrivals: Arrival[]) =>
      unwrap(
        api.POST('/api/intake/batches/{batch_id}/register', {
          params: { path: { batch_id: batchId } },
          body: { seen: Object.fromEntries(arrivals.map((each) => [each.id, each.version])) },
        }),
      ),
    onSettled: async () => {
      for (const key of ['batch', 'batches', 'register', 'desk', 'document'])
        await client.invalidateQueries({ queryKey: [key] })
    },
  })
}

/** The folders one sees; new documents of a batch go into one of them. */
export function useFolders() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['folders', project.id],
    queryFn: () => unwrap(api.GET('/api/folders', { params: { query: { project_id: project.id } } })),
  })
}

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
