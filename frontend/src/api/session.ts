import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef } from 'react'

import { api, unwrap, type Schemas } from './client'
import { useChanges } from './live'

export type Session = Schemas['SessionShown']
export type SessionSheet = Schemas['SessionSheet']

const AGAIN_MS = 1500

/** A session as I see it. What is open on its sheets follows the marks, which may come many a second. */
export function useSession(sessionId: string | undefined) {
  const client = useQueryClient()
  const waits = useRef<ReturnType<typeof setTimeout>>(undefined)
  useEffect(() => () => clearTimeout(waits.current), [])
  useChanges(
    useCallback(
      ({ topic }) => {
        if (topic !== 'marks' || !sessionId || waits.current) return
        waits.current = setTimeout(() => {
          waits.current = undefined
          void client.invalidateQueries({ queryKey: ['session', sessionId] })
        }, AGAIN_MS)
      },
      [client, sessionId],
    ),
  )
  return useQuery({
    queryKey: ['session', sessionId],
    queryFn: () =>
      unwrap(api.GET('/api/sessions/{session_id}', { params: { path: { session_id: sessionId ?? '' } } })),
    enabled: sessionId !== undefined,
    retry: false,
  })
}
