import { useQuery } from '@tanstack/react-query'
import { Navigate, useParams } from '@tanstack/react-router'

import { api, unwrap } from '../../api/client'
import { isLost } from '../../api/fetched'
import { ErrorNote, Loading } from '../../ui/Notes'

/** From a mail straight to the sheet with which one's part goes on; to the slip where nothing is asked any more. */
export function GoOn() {
  const { reviewId } = useParams({ from: '/frame/reviews/$reviewId/go-on' })
  const first = useQuery({
    queryKey: ['review', reviewId, 'first-open'],
    queryFn: () =>
      unwrap(api.GET('/api/reviews/{review_id}/first-open', { params: { path: { review_id: reviewId } } })),
    staleTime: 0,
  })
  if (isLost(first)) return <ErrorNote error={first.error} again={() => void first.refetch()} />
  if (!first.data || first.isFetching) return <Loading what="your part of the review" />
  const { revision_id: revisionId } = first.data
  if (!revisionId) return <Navigate replace to="/reviews/$reviewId" params={{ reviewId }} />
  return <Navigate replace to="/sheet/$revisionId" params={{ revisionId }} />
}
