import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'

import { api, unwrap } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useHere } from '../../ui/useHere'
import { useAfterAct } from './useLetters'
import type { Draft } from './useWriting'

/** A draft that somebody looks at before it goes: taken back by whoever wrote it; let go, or given back, by the other. */
export function useChecks(draft: Draft) {
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
      onSuccess: () => here(toDesk),
      onSettled: after,
    }),
    giveBack: useMutation({
      mutationFn: (note: string) =>
        unwrap(api.POST('/api/letters/drafts/{message_id}/give-back', { ...path, body: { ...body, note } })),
      onSuccess: () => here(toDesk),
      onSettled: after,
    }),
  }
}
