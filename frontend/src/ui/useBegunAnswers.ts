import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'

import { api, unwrap, type Schemas } from '../api/client'
import { Refused } from '../api/problems'
import type { Grave } from './Grave'
import { useField, useKept } from './useKept'

export interface Answer {
  verdict: string
  comment: string
  grave: Grave
}

const NOTHING: Answer = { verdict: '', comment: '', grave: 'should' }
/** How long typing rests before what was typed goes to the server, in milliseconds. */
const REST_MS = 600
/** How long what did not reach the server waits until it is sent again, in milliseconds. */
const AGAIN_MS = 5000

const keyOf = (reviewId: string, stepId: string) => ['review', reviewId, 'begun', stepId] as const

/** What one has begun to say, as the server has it: on whatever device it was begun. */
function useBegun(reviewId: string, stepId: string) {
  return useQuery({
    queryKey: keyOf(reviewId, stepId),
    queryFn: () =>
      unwrap(
        api.GET('/api/reviews/{review_id}/steps/{step_id}/begun', {
          params: { path: { review_id: reviewId, step_id: stepId } },
        }),
      ),
  })
}

/** What is typed goes to the server when the typing rests; what has not gone yet is kept in the browser. */
function useKeeping(
  reviewId: string,
  stepId: string,
  waiting: Record<string, Answer>,
  onKept: (kept: Record<string, Answer>) => void,
) {
  const client = useQueryClient()
  const [failed, setFailed] = useState<unknown>(null)
  const [tries, setTries] = useState(0)
  const told = useRef(onKept)
  useEffect(() => {
    told.current = onKept
  })
  useEffect(() => {
    if (!Object.keys(waiting).length) return
    let again: ReturnType<typeof setTimeout> | undefined
    const timer = setTimeout(() => {
      const answers = Object.entries(waiting).map(([document_id, answer]) => ({ document_id, ...answer }))
      void unwrap(
        api.PUT('/api/reviews/{review_id}/steps/{step_id}/begun', {
          params: { path: { review_id: reviewId, step_id: stepId } },
          body: { answers },
        }),
      ).then(
        () => {
          client.setQueryData<Schemas['BegunShown'][]>(keyOf(reviewId, stepId), (old = []) => [
            ...old.filter((each) => !(each.document_id in waiting)),
            ...answers,
          ])
          void client.invalidateQueries({ queryKey: ['review', 'on-sheet'] })
          setFailed(null)
          told.current(waiting)
        },
        (error: unknown) => {
          setFailed(error)
          // A line that broke comes back; what is refused is refused again.
          if (!(error instanceof Refused)) again = setTimeout(() => setTries((now) => now + 1), AGAIN_MS)
        },
      )
    }, REST_MS)
    return () => {
      clearTimeout(timer)
      clearTimeout(again)
    }
  }, [waiting, tries, reviewId, stepId, client])
  return failed
}

/** One's answers in a step, over pages, reloads and devices, until they are handed in. */
export function useBegunAnswers(reviewId: string, stepId: string, number: string) {
  const form = useKept('hand-in', `${reviewId} ${stepId}`, number)
  const [waiting, setWaiting] = useField<Record<string, Answer>>(form, 'said', {})
  const [note, setNote] = useField(form, 'note', '')
  const begun = useBegun(reviewId, stepId)
  const failed = useKeeping(reviewId, stepId, waiting, (kept) =>
    setWaiting((now) =>
      Object.fromEntries(
        Object.entries(now).filter(([id, answer]) => {
          const was = kept[id]
          return (
            !was ||
            was.verdict !== answer.verdict ||
            was.comment !== answer.comment ||
            was.grave !== answer.grave
          )
        }),
      ),
    ),
  )
  const there = new Map(begun.data?.map((each) => [each.document_id, each]))
  const of = (id: string, proposed = ''): Answer => {
    const said = waiting[id] ?? there.get(id)
    if (!said) return { ...NOTHING, verdict: proposed }
    return { verdict: said.verdict, comment: said.comment, grave: (said.grave || 'should') as Grave }
  }
  const change = (id: string, part: Partial<Answer>, proposed = '') =>
    setWaiting((old) => ({ ...old, [id]: { ...of(id, proposed), ...old[id], ...part } }))
  return {
    form,
    of,
    change,
    note,
    setNote,
    error: begun.error ?? (failed instanceof Refused ? failed : null),
    failed,
    /** Why it cannot be handed in yet: what was begun elsewhere would be lost. */
    notYet: !begun.data && 'What you have begun is not here yet.',
    waits: Object.keys(waiting).length > 0,
  }
}
