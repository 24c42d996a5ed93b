import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { putFile } from '../../../api/putFile'
import { sendOnce, type Kept } from '../../../ui/useKept'

export type Received = Schemas['Received']
export type Tried = Schemas['ListTried']

export function useReceived(batchId: string) {
  return useQuery({
    queryKey: ['received', batchId],
    queryFn: () =>
      unwrap(api.GET('/api/intake/batches/{batch_id}/received', { params: { path: { batch_id: batchId } } })),
  })
}

function useAgain() {
  const client = useQueryClient()
  return () => fetchAnew(client, ['received', 'trail'])
}

type Asked = Schemas['KeepReceived']

/** Tries a list against the files: nothing is kept. */
export function useTryList(batchId: string) {
  return useMutation({
    mutationFn: (body: Asked) =>
      unwrap(
        api.POST('/api/intake/batches/{batch_id}/received', {
          params: { path: { batch_id: batchId } },
          body: { ...body, keep: false },
        }),
      ),
  })
}

export function useKeepList(batchId: string, form: Kept) {
  const again = useAgain()
  return useMutation({
    mutationFn: (body: Asked) =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/intake/batches/{batch_id}/received', {
            params: { path: { batch_id: batchId } },
            ...more,
            body: { ...body, keep: true },
          }),
        ),
      ),
    onSettled: again,
  })
}

/** A list that came as a spreadsheet, as text. */
export function useListFile(batchId: string) {
  return useMutation({
    mutationFn: ({ file, sheet }: { file: File; sheet: string }) =>
      putFile<Schemas['ListText']>(
        `/api/intake/batches/${batchId}/received/list?${new URLSearchParams({ sheet })}`,
        file,
      ),
  })
}

export function useReceipt(one: Received, form: Kept) {
  const again = useAgain()
  return useMutation({
    mutationFn: (body: { person_id: string; note: string }) =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/received/{received_id}/receipt', {
            params: { path: { received_id: one.id } },
            ...more,
            body: { ...body, version: one.version },
          }),
        ),
      ),
    onSettled: again,
  })
}

export function useRemoveReceived(one: Received) {
  const again = useAgain()
  return useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/received/{received_id}/remove', {
          params: { path: { received_id: one.id } },
          body: { version: one.version },
        }),
      ),
    onSettled: again,
  })
}
