import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { Refused } from '../../api/problems'
import { useAttaching } from '../../ui/useAttaching'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { useAfterAct } from './useLetters'

export type Draft = Schemas['LetterDraft']
export type Written = Required<Draft['written']>
export type Contact = Written['contacts'][number]

const SAVED_AFTER_MS = 900
const TRIED_AGAIN_MS = 5000

export function useDraft(messageId: string) {
  return useQuery({
    queryKey: ['letter-draft', messageId],
    queryFn: () =>
      unwrap(api.GET('/api/letters/drafts/{message_id}', { params: { path: { message_id: messageId } } })),
    // What is typed here is newer than what is there: it is not fetched again over it.
    staleTime: Infinity,
    refetchOnWindowFocus: false,
  })
}

/** All of a draft: kept here as it is typed, and on the server a moment later. */
export function useWriting(draft: Draft) {
  const form = useKept('letter', draft.id, draft.written.subject || draft.number)
  const [written, setWritten] = useField(form, 'written', draft.written as Written)
  const [references, setReferences] = useField(form, 'references', draft.references)
  const attaching = useAttaching(form, { kind: 'letter_message', target: draft.id }, draft.files)
  const now: Written = { ...written, files: idsOf(attaching.there), references: targetsOf(references) }
  const set = (part: Partial<Written>) => setWritten((old) => ({ ...old, ...part }))
  return { form, now, attaching, references, set, setReferences }
}

export type Writing = ReturnType<typeof useWriting>

const idsOf = (files: Draft['files']) => files.map((each) => each.id)
const targetsOf = (things: Draft['references']) => things.map(({ kind, target }) => ({ kind, target }))

/** Keeps what is written on the server, a moment after the last key. `stop` ends that: it is sent, or thrown away. */
function useSaving(draft: Draft, writing: Writing) {
  const client = useQueryClient()
  const version = useRef(draft.version)
  const done = useRef(false)
  const text = JSON.stringify(writing.now)
  const there = JSON.stringify({
    ...draft.written,
    files: idsOf(draft.files),
    references: targetsOf(draft.references),
  })
  const keep = useMutation({
    mutationFn: async (now: Written) => {
      const kept = await unwrap(
        api.PUT('/api/letters/drafts/{message_id}', {
          params: { path: { message_id: draft.id } },
          body: { version: version.current, written: now },
        }),
      )
      version.current = kept.version
      const { files, references } = { files: writing.attaching.there, references: writing.references }
      client.setQueryData(
        ['letter-draft', draft.id],
        (old: Draft | undefined) => old && { ...old, ...kept, written: now, files, references },
      )
    },
    scope: { id: `letter ${draft.id}` },
  })
  const { mutate, isPending, error } = keep
  const isStale = error instanceof Refused && error.problem.code === 'stale'
  useEffect(() => {
    if (text === there || isPending || isStale || done.current) return
    const wait = error ? TRIED_AGAIN_MS : SAVED_AFTER_MS
    const timer = setTimeout(() => mutate(JSON.parse(text) as Written), wait)
    return () => clearTimeout(timer)
  }, [text, there, isPending, isStale, error, mutate])
  // Kept from another window since: what stands here is kept over it only if somebody says so.
  const keepMine = async () => {
    const now = await unwrap(
      api.GET('/api/letters/drafts/{message_id}', { params: { path: { message_id: draft.id } } }),
    )
    version.current = now.version
    keep.reset()
  }
  const stop = () => {
    done.current = true
    writing.form.drop()
  }
  return { keep, version, stop, isStale, keepMine, isKept: text === there }
}

/** Keeps it as it is written; sends it, or throws it away. */
export function useKeeping(draft: Draft, writing: Writing) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const here = useHere()
  const onSettled = useAfterAct()
  const { keep, version, stop, ...saving } = useSaving(draft, writing)
  const path = { params: { path: { message_id: draft.id } } }
  const open = (letterId: string) =>
    here(() => void navigate({ to: '/letters/$letterId', params: { letterId }, search: {} }))
  const toList = () => void navigate({ to: '/letters' })
  // Whoever looks at it first gets it as it stands here; the page shows it to them as it would go.
  const give = useMutation({
    mutationFn: async () => {
      if (!saving.isKept) await keep.mutateAsync(writing.now)
      const body = { version: version.current }
      return unwrap(api.POST('/api/letters/drafts/{message_id}/check', { ...path, body }))
    },
    onSuccess: () => {
      stop()
      return fetchAnew(client, ['letter-draft'])
    },
    onSettled,
  })
  const send = useMutation({
    mutationFn: async () => {
      if (!saving.isKept) await keep.mutateAsync(writing.now)
      const body = { version: version.current }
      return sendOnce(writing.form, (more) =>
        unwrap(api.POST('/api/letters/drafts/{message_id}/send', { ...path, ...more, body })),
      )
    },
    onSuccess: (sent) => {
      stop()
      open(sent.letter_id)
    },
    onSettled,
  })
  const drop = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/letters/drafts/{message_id}/drop', { ...path, body: { version: version.current } }),
      ),
    onSuccess: () => {
      stop()
      if (draft.is_new) here(toList)
      else open(draft.letter_id)
    },
    onSettled,
  })
  return { keep, give, send, drop, ...saving }
}
