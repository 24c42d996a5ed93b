import { useQuery, useQueryClient, type QueryKey } from '@tanstack/react-query'
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

/** Refused by the server for good; a line that broke, and a server that stumbled, come as refusals, too. */
const isRefusal = (error: unknown) =>
  error instanceof Refused && error.problem.status > 0 && error.problem.status < 500

type Begun = Schemas['BegunShown']

/** Where what one has begun is read from and kept: by whoever is signed in, or by a link. */
export interface Ways {
  key: QueryKey
  read: () => Promise<Begun[]>
  keep: (answers: Schemas['BegunAnswer'][]) => Promise<unknown>
}

function waysOf(reviewId: string, stepId: string): Ways {
  const path = { params: { path: { review_id: reviewId, step_id: stepId } } }
  return {
    key: ['review', reviewId, 'begun', stepId],
    read: () => unwrap(api.GET('/api/reviews/{review_id}/steps/{step_id}/begun', path)),
    keep: (answers) =>
      unwrap(api.PUT('/api/reviews/{review_id}/steps/{step_id}/begun', { ...path, body: { answers } })),
  }
}

/** What is typed goes to the server when the typing rests; what has not gone yet is kept in the browser. */
function useKeeping(
  ways: Ways,
  waiting: Record<string, Answer>,
  onKept: (kept: Record<string, Answer>) => void,
) {
  const client = useQueryClient()
  const [failed, setFailed] = useState<unknown>(null)
  const [tries, setTries] = useState(0)
  const told = useRef({ onKept, ways })
  useEffect(() => {
    told.current = { onKept, ways }
  })
  useEffect(() => {
    if (!Object.keys(waiting).length) return
    let again: ReturnType<typeof setTimeout> | undefined
    const timer = setTimeout(() => {
      const answers = Object.entries(waiting).map(([document_id, answer]) => ({ document_id, ...answer }))
      const { ways: by } = told.current
      void by.keep(answers).then(
        () => {
          client.setQueryData<Begun[]>(by.key, (old = []) => [
            ...old.filter((each) => !(each.document_id in waiting)),
            ...answers,
          ])
          void client.invalidateQueries({ queryKey: ['review', 'on-sheet'] })
          setFailed(null)
          told.current.onKept(waiting)
        },
        (error: unknown) => {
          setFailed(error)
          // A line that broke comes back; what is refused is refused again.
          if (!isRefusal(error)) again = setTimeout(() => setTries((now) => now + 1), AGAIN_MS)
        },
      )
    }, REST_MS)
    return () => {
      clearTimeout(timer)
      clearTimeout(again)
    }
  }, [waiting, tries, client])
  return failed
}

/** One's answers in a step, over pages, reloads and devices, until they are handed in. */
export function useBegunAnswers(reviewId: string, stepId: string, number: string) {
  return useAnswersBy(`${reviewId} ${stepId}`, number, waysOf(reviewId, stepId))
}

/** The same by other ways; `of` names the step. */
export function useAnswersBy(of: string, number: string, ways: Ways) {
  const form = useKept('hand-in', of, number)
  const [waiting, setWaiting] = useField<Record<string, Answer>>(form, 'said', {})
  const [note, setNote] = useField(form, 'note', '')
  const begun = useQuery({ queryKey: ways.key, queryFn: ways.read })
  const failed = useKeeping(ways, waiting, (kept) =>
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
  const answerOf = (id: string, proposed = ''): Answer => {
    const said = waiting[id] ?? there.get(id)
    if (!said) return { ...NOTHING, verdict: proposed }
    return { verdict: said.verdict, comment: said.comment, grave: (said.grave || 'should') as Grave }
  }
  const change = (id: string, part: Partial<Answer>, proposed = '') =>
    setWaiting((old) => ({ ...old, [id]: { ...answerOf(id, proposed), ...old[id], ...part } }))
  return {
    form,
    of: answerOf,
    change,
    note,
    setNote,
    error: begun.error ?? (isRefusal(failed) ? failed : null),
    failed,
    /** Why it cannot be handed in yet: what was begun elsewhere would be lost. */
    notYet: !begun.data && 'What you have begun is not here yet.',
    waits: Object.keys(waiting).length > 0,
  }
}

/** Whether what one says of a document is kept, in words; empty while nothing is said. */
export function keptWords(
  { failed, waits }: { failed: unknown; waits: boolean },
  said: { verdict: string; comment: string },
): string {
  if (!waits && !said.verdict && !said.comment) return ''
  if (failed) return 'Not kept on the server yet; it stays in this browser.'
  return waits ? 'Keeping …' : 'Kept. You can go on another day, or on another device.'
}
