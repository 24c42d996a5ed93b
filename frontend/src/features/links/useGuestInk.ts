import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import { onceFor } from '../../api/waiting'
import { asGuest, type Entered } from './guestVisit'

/** The ink on a sheet that goes round, and what whoever answers by a link adds to it and takes away again. */
export function useGuestInk(visit: Entered, revisionId: string) {
  const client = useQueryClient()
  const key = ['guest', 'marks', visit.guest, revisionId] as const
  const path = { params: { path: { revision_id: revisionId } } }
  const marks = useQuery({
    queryKey: key,
    queryFn: () =>
      unwrapAs<Schemas['GuestMarks']>(
        api.GET('/api/guest/review/{revision_id}/marks', { ...path, ...asGuest(visit) }),
      ),
  })
  // Not waited for: without a line it would hide for seconds that it is broken.
  const onSettled = () => void client.invalidateQueries({ queryKey: key })
  return {
    marks,
    draw: useMutation({
      mutationFn: ({ drawn, text }: { drawn: Schemas['NewMark']; text: string }) => {
        // Pressed again after the line broke, it is the same.
        const headers = { ...asGuest(visit).headers, ...onceFor(drawn).headers }
        const body = { marks: [{ ...drawn, text }] }
        return unwrap(api.POST('/api/guest/review/{revision_id}/marks', { ...path, headers, body }))
      },
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (mark: Schemas['Mark']) =>
        unwrap(
          api.POST('/api/guest/review/marks/{mark_id}/remove', {
            params: { path: { mark_id: mark.id } },
            ...asGuest(visit),
            body: { version: mark.version },
          }),
        ),
      onSettled,
    }),
  }
}

export type GuestInk = ReturnType<typeof useGuestInk>
