import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from './client'

export type Session = Schemas['SessionShown']
export type SessionSheet = Schemas['SessionSheet']

/** A session as I see it. */
export function useSession(sessionId: string | undefined) {
  return useQuery({
    queryKey: ['session', sessionId],
    queryFn: () =>
      unwrap(api.GET('/api/sessions/{session_id}', { params: { path: { session_id: sessionId ?? '' } } })),
    enabled: sessionId !== undefined,
    retry: false,
  })
}
