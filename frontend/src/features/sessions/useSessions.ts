import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { usePages } from '../../api/pages'
import type { SessionSearch } from './sessionSearch'

export type Line = Schemas['SessionLine']
export type Party = Schemas['Party']

const PAGE = 100

export function useSessionLog(search: SessionSearch) {
  const { project } = useSeat()
  const narrowed = Object.fromEntries(Object.entries(search).filter(([, value]) => value !== undefined))
  const query = { project_id: project.id, limit: PAGE, ...narrowed }
  return usePages(['sessions', project.id, query], (start) =>
    unwrap(api.GET('/api/sessions', { params: { query: { ...query, start } } })),
  )
}

/** The acts on a session, each with the version that was seen. */
export function useSessionActs(sessionId: string) {
  const client = useQueryClient()
  const path = { params: { path: { session_id: sessionId } } }
  const onSettled = () => fetchAnew(client, ['session', 'sessions', 'document', 'register'])
  return {
    open: useMutation({
      mutationFn: (version: number) =>
        unwrap(api.POST('/api/sessions/{session_id}/open', { ...path, body: { version } })),
      onSettled,
    }),
    close: useMutation({
      mutationFn: (body: Schemas['CloseSession']) =>
        unwrap(api.POST('/api/sessions/{session_id}/close', { ...path, body })),
      onSettled,
    }),
    openAgain: useMutation({
      mutationFn: (body: Schemas['OpenAgain']) =>
        unwrap(api.POST('/api/sessions/{session_id}/open-again', { ...path, body })),
      onSettled,
    }),
    change: useMutation({
      mutationFn: (body: Partial<Schemas['ChangeSession']> & { version: number }) =>
        unwrap(api.POST('/api/sessions/{session_id}', { ...path, body })),
      onSettled,
    }),
    parties: useMutation({
      mutationFn: (body: Schemas['ChangeParties']) =>
        unwrap(api.POST('/api/sessions/{session_id}/parties', { ...path, body })),
      onSettled,
    }),
    takeOut: useMutation({
      mutationFn: ({ revisionId, ...body }: { revisionId: string; version: number; reason: string }) =>
        unwrap(
          api.POST('/api/sessions/{session_id}/sheets/{revision_id}/take-out', {
            params: { path: { session_id: sessionId, revision_id: revisionId } },
            body,
          }),
        ),
      onSettled,
    }),
  }
}

export type SessionActs = ReturnType<typeof useSessionActs>
