import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { usePages } from '../../api/pages'
import { useHere } from '../../ui/useHere'
import { askedBy, type LetterSearch } from './letterSearch'

export type Line = Schemas['LetterLine']
export type Letter = Schemas['LetterShown']
export type Message = Schemas['MessageShown']

const PAGE = 100

export function useLetterList(search: LetterSearch) {
  const { project } = useSeat()
  const query = { project_id: project.id, limit: PAGE, ...askedBy(search) }
  return usePages(['letters', project.id, query], (start) =>
    unwrap(api.GET('/api/letters', { params: { query: { ...query, start } } })),
  )
}

export function useLetter(letterId: string) {
  return useQuery({
    queryKey: ['letter', letterId],
    queryFn: () => unwrap(api.GET('/api/letters/{letter_id}', { params: { path: { letter_id: letterId } } })),
  })
}

export function useLetterChoices() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['letter-choices', project.id],
    queryFn: () => unwrap(api.GET('/api/letters/choices', { params: { query: { project_id: project.id } } })),
  })
}

/** After an act on letters: what it may have changed. */
export function useAfterAct() {
  const client = useQueryClient()
  return () => fetchAnew(client, ['letter', 'letters', 'desk', 'trail', 'me'])
}

/** Begins a draft, in a thread or of a new one, and goes to write it. */
export function useBegin() {
  const { project } = useSeat()
  const navigate = useNavigate()
  const onSettled = useAfterAct()
  const here = useHere()
  const onSuccess = (begun: Schemas['LetterBegun']) =>
    here(() => void navigate({ to: '/letters/write/$messageId', params: { messageId: begun.message_id } }))
  return {
    letter: useMutation({
      mutationFn: (kind: string) =>
        unwrap(api.POST('/api/letters', { body: { project_id: project.id, kind, about: [] } })),
      onSuccess,
      onSettled,
    }),
    reply: useMutation({
      mutationFn: (letterId: string) =>
        unwrap(api.POST('/api/letters/{letter_id}/reply', { params: { path: { letter_id: letterId } } })),
      onSuccess,
      onSettled,
    }),
  }
}

/** The acts on one thread, each with the version that was seen. */
export function useLetterActs(letterId: string) {
  const onSettled = useAfterAct()
  const path = { params: { path: { letter_id: letterId } } }
  return {
    close: useMutation({
      mutationFn: (version: number) =>
        unwrap(api.POST('/api/letters/{letter_id}/close', { ...path, body: { version, why: '' } })),
      onSettled,
    }),
    reopen: useMutation({
      mutationFn: (version: number) =>
        unwrap(api.POST('/api/letters/{letter_id}/reopen', { ...path, body: { version } })),
      onSettled,
    }),
    setPrivate: useMutation({
      mutationFn: (body: Schemas['SetPrivate']) =>
        unwrap(api.POST('/api/letters/{letter_id}/private', { ...path, body })),
      onSettled,
    }),
    answer: useMutation({
      mutationFn: (body: Schemas['MarkAnswer']) =>
        unwrap(api.POST('/api/letters/{letter_id}/answer', { ...path, body })),
      onSettled,
    }),
    remind: useMutation({
      mutationFn: (version: number) =>
        unwrap(api.POST('/api/letters/remind', { body: { letters: { [letterId]: version }, note: '' } })),
      onSettled,
    }),
  }
}
