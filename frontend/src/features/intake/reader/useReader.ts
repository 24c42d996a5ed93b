import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'

export type Zone = Schemas['ZoneShown']
export type Reader = Schemas['ReaderShown']
export type Tried = Schemas['ReaderTried']

export type ReadField = Schemas['ReadField']

export function wordsOf(fields: readonly ReadField[], field: string): string {
  return fields.find((each) => each.field === field)?.words ?? field
}

/** A reader as it is being drawn; `id` is empty for a new one. */
export interface Draft {
  id: string
  version: number
  name: string
  company: string
  width: number
  height: number
  zones: Zone[]
}

export function useReaders(batchId: string) {
  return useQuery({
    queryKey: ['readers', batchId],
    queryFn: () =>
      unwrap(api.GET('/api/intake/batches/{batch_id}/readers', { params: { path: { batch_id: batchId } } })),
  })
}

const PAUSE_MS = 180

/** What the zones read on every page of the batch, asked again shortly after they stop changing. */
export function useTried(batchId: string, draft: Draft) {
  const [settled, setSettled] = useState(draft)
  useEffect(() => {
    const wait = setTimeout(() => setSettled(draft), PAUSE_MS)
    return () => clearTimeout(wait)
  }, [draft])
  const { width, height, zones } = settled
  return useQuery({
    queryKey: ['tried', batchId, width, height, zones],
    enabled: zones.length > 0,
    placeholderData: (before: Tried | undefined) => before,
    queryFn: () =>
      unwrap(
        api.POST('/api/intake/batches/{batch_id}/try-reader', {
          params: { path: { batch_id: batchId } },
          body: { width_mm: width, height_mm: height, zones },
        }),
      ),
  })
}

function useReadAgain(batchId: string) {
  const client = useQueryClient()
  return async () => {
    await client.invalidateQueries({ queryKey: ['readers', batchId] })
    await client.invalidateQueries({ queryKey: ['batch'] })
  }
}

export function useKeepReader(batchId: string) {
  const again = useReadAgain(batchId)
  return useMutation({
    mutationFn: (draft: Draft) =>
      unwrap(
        api.POST('/api/intake/readers', {
          body: {
            batch_id: batchId,
            reader_id: draft.id,
            version: draft.version,
            name: draft.name,
            company: draft.company,
            width_mm: draft.width,
            height_mm: draft.height,
            zones: draft.zones,
          },
        }),
      ),
    onSettled: again,
  })
}

export function useRemoveReader(batchId: string) {
  const again = useReadAgain(batchId)
  return useMutation({
    mutationFn: ({ id, version }: { id: string; version: number }) =>
      unwrap(
        api.POST('/api/intake/readers/{reader_id}/remove', {
          params: { path: { reader_id: id } },
          body: { batch_id: batchId, version },
        }),
      ),
    onSettled: again,
  })
}
