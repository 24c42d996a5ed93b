import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { sendOnce, type Kept } from '../../../ui/useKept'
import type { SheetPart } from './part'
import { useHere } from '../../../ui/useHere'

function useParts(part: SheetPart) {
  const client = useQueryClient()
  return {
    params: { path: { review_id: part.review_id, step_id: part.step_id } },
    onSettled: () => fetchAnew(client, ['review', 'reviews', 'desk', 'register', 'document']),
  }
}

export function usePickUp(part: SheetPart) {
  const { params, onSettled } = useParts(part)
  return useMutation({
    mutationFn: () => unwrap(api.POST('/api/reviews/{review_id}/steps/{step_id}/pick-up', { params })),
    onSettled,
  })
}

export function useHandIn(part: SheetPart, onDone: () => Promise<void>) {
  const { params, onSettled } = useParts(part)
  const here = useHere()
  return useMutation({
    mutationFn: ({ form, ...body }: { form: Kept; answers: Schemas['DocumentAnswer'][]; note: string }) =>
      sendOnce(form, (more) =>
        unwrap(api.POST('/api/reviews/{review_id}/steps/{step_id}/hand-in', { params, ...more, body })),
      ),
    onSuccess: () => here(onDone),
    onSettled,
  })
}
