import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { usePages } from '../../api/pages'
import type { LogSearch } from './logSearch'
import { sendOnce, type Kept } from '../../ui/useKept'

export type Review = Schemas['Review']
export type SlipStep = Schemas['SlipRow']
export type SlipPlace = Schemas['PlaceShown']

const PAGE = 100

/** The log as the address says, a page after the other as it is scrolled. */
export function useReviewLog(search: LogSearch) {
  const { project } = useSeat()
  const query = { project_id: project.id, ...asked(search), limit: PAGE }
  const log = usePages(['reviews', project.id, 'log', query], (start) =>
    unwrap(api.GET('/api/reviews', { params: { query: { ...query, start } } })),
  )
  return { ...log, routes: log.first?.routes ?? [] }
}

function asked({ words = '', whose, state, late = false, route = '', document = '' }: LogSearch) {
  return { words, late, route, document, ...(whose && { whose }), ...(state && { state }) }
}

export function useReview(reviewId: string) {
  return useQuery({
    queryKey: ['review', reviewId],
    queryFn: () => unwrap(api.GET('/api/reviews/{review_id}', { params: { path: { review_id: reviewId } } })),
  })
}

/** After any act on a review everything that shows it is fetched anew. */
export function useSettled() {
  const client = useQueryClient()
  return () => fetchAnew(client, ['review', 'reviews', 'desk', 'register', 'document'])
}

/** The acts on one of its steps. */
export function useStepActs(review: Review, step: SlipStep) {
  const onSettled = useSettled()
  const params = { path: { review_id: review.id, step_id: step.id } }
  return {
    pickUp: useMutation({
      mutationFn: () => unwrap(api.POST('/api/reviews/{review_id}/steps/{step_id}/pick-up', { params })),
      onSettled,
    }),
    putDown: useMutation({
      mutationFn: () => unwrap(api.POST('/api/reviews/{review_id}/steps/{step_id}/put-down', { params })),
      onSettled,
    }),
    handIn: useMutation({
      mutationFn: ({ form, ...body }: { form: Kept; answers: Schemas['DocumentAnswer'][]; note: string }) =>
        sendOnce(form, (more) =>
          unwrap(
            api.POST('/api/reviews/{review_id}/steps/{step_id}/hand-in', {
              params,
              ...more,
              body,
            }),
          ),
        ),
      onSettled,
    }),
  }
}

/** What a step's changes send: `gone` is whose place is given. */
export type StepChange =
  | { kind: 'hand-on'; person: string; note: string }
  | { kind: 'put-in'; gone: string; person: string; note: string }
  | { kind: 'end'; note: string }

export function useStepChange(review: Review, step: SlipStep) {
  const onSettled = useSettled()
  const params = { path: { review_id: review.id, step_id: step.id } }
  return useMutation({
    mutationFn: async (change: StepChange) => {
      if (change.kind === 'hand-on')
        return unwrap(
          api.POST('/api/reviews/{review_id}/steps/{step_id}/hand-on', {
            params,
            body: { person_id: change.person, note: change.note },
          }),
        )
      if (change.kind === 'put-in')
        return unwrap(
          api.POST('/api/reviews/{review_id}/steps/{step_id}/put-in', {
            params,
            body: { gone_id: change.gone, person_id: change.person, reason: change.note },
          }),
        )
      return unwrap(
        api.POST('/api/reviews/{review_id}/steps/{step_id}/end', { params, body: { reason: change.note } }),
      )
    },
    onSettled,
  })
}

/** The acts on the whole of it; each carries the version that was seen. */
export function useReviewActs(review: Review) {
  const onSettled = useSettled()
  const params = { path: { review_id: review.id } }
  const seen = { version: review.version }
  return {
    cancel: useMutation({
      mutationFn: (reason: string) =>
        unwrap(api.POST('/api/reviews/{review_id}/cancel', { params, body: { ...seen, reason } })),
      onSettled,
    }),
    recall: useMutation({
      mutationFn: (reason: string) =>
        unwrap(api.POST('/api/reviews/{review_id}/recall', { params, body: { ...seen, reason } })),
      onSettled,
    }),
    remind: useMutation({
      mutationFn: () =>
        unwrap(
          api.POST('/api/reviews/remind', { body: { project_id: review.project_id, reviews: [review.id] } }),
        ),
    }),
    swapIn: useMutation({
      mutationFn: (documents: string[]) =>
        unwrap(api.POST('/api/reviews/{review_id}/swap-in', { params, body: { ...seen, documents } })),
      onSettled,
    }),
  }
}

/** Who could take a place in a step. */
export function useNewcomers(review: Review, step: SlipStep, wanted: boolean) {
  return useQuery({
    queryKey: ['review', review.id, 'newcomers', step.id],
    enabled: wanted,
    queryFn: () =>
      unwrap(
        api.GET('/api/reviews/{review_id}/steps/{step_id}/others', {
          params: { path: { review_id: review.id, step_id: step.id } },
        }),
      ),
  })
}
