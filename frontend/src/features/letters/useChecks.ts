import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useEffect } from 'react'

import { api, unwrap } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useHere } from '../../ui/useHere'
import { useAfterAct } from './useLetters'
import type { Draft } from './useWriting'

/** While another has it, what becomes of it appears by itself; while one types, nothing is fetched over that. */
export function useFollowed(draft: Draft) {
  const client = useQueryClient()
  const now = useQuery({
    queryKey: ['letter', 'before it goes', draft.id],
    queryFn: () =>
      unwrap(api.GET('/api/letters/drafts/{message_id}', { params: { path: { message_id: draft.id } } })),
    retry: false,
  })
  const { data, error } = now
  const changed = error !== null || (data !== undefined && data.version !== draft.version)
  useEffect(() => {
    if (changed) void fetchAnew(client, ['letter-draft'])
  }, [changed, client])
}

/** A draft that somebody looks at before it goes: taken back by whoever wrote it; let go, or given back, by the other; then `forget`. */
export function useChecks(draft: Draft, forget: () => void = () => undefined) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const toDesk = () => void navigate({ to: '/' })
  const here = useHere()
  const after = useAfterAct()
  const onSettled = async () => {
    await Promise.all([fetchAnew(client, ['letter-draft']), after()])
  }
  const path = { params: { path: { message_id: draft.id } } }
  const body = { version: draft.version }
  return {
    takeBack: useMutation({
      mutationFn: () => unwrap(api.POST('/api/letters/drafts/{message_id}/take-back', { ...path, body })),
      onSettled,
    }),
    letGo: useMutation({
      mutationFn: () => unwrap(api.POST('/api/letters/drafts/{message_id}/let-go', { ...path, body })),
      onSuccess: () => {
        forget()
        here(toDesk)
      },
      onSettled: after,
    }),
    giveBack: useMutation({
      mutationFn: (note: string) =>
        unwrap(api.POST('/api/letters/drafts/{message_id}/give-back', { ...path, body: { ...body, note } })),
      onSuccess: () => {
        forget()
        here(toDesk)
      },
      onSettled: after,
    }),
  }
}
