import { useQuery } from '@tanstack/react-query'
import { Navigate, useParams } from '@tanstack/react-router'

import { api, unwrap } from '../../api/client'
import { ErrorNote, Loading } from '../../ui/Notes'
import { isLost } from '../../api/fetched'

/** The way to a mark, on the newest revision that it stands on. */
export function MarkPage() {
  const { threadId = '' } = useParams({ strict: false })
  const place = useQuery({
    queryKey: ['mark-place', threadId],
    queryFn: () => unwrap(api.GET('/api/marks/{mark_id}/place', { params: { path: { mark_id: threadId } } })),
  })
  if (isLost(place)) return <ErrorNote error={place.error} again={() => void place.refetch()} />
  if (!place.data) return <Loading what="the mark" />
  const { revision_id, mark_id, page } = place.data
  return (
    <Navigate
      to="/sheet/$revisionId"
      params={{ revisionId: revision_id }}
      search={{ mark: mark_id, page }}
      replace
    />
  )
}
