import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { sendOnce, type Kept } from '../../ui/useKept'

export type Review = Schemas['Review']
export type SlipStep = Schemas['SlipRow']

export function useReviewList() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['reviews', project.id],
    queryFn: () => unwrap(api.GET('/api/reviews', { params: { query: { project_id: project.id } } })),
  })
}

export function useReview(reviewId: string) {
  return useQuery({
    queryKey: ['review', reviewId],
    queryFn: () => unwrap(api.GET('/api/reviews/{review_id}', { params: { path: { review_id: reviewId } } })),
  })
}

export function useRoutes() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['routes', project.id],
    queryFn: () => unwrap(api.GET('/api/routes', { params: { query: { project_id: project.id } } })),
  })
}

/** The acts on one review; each carries the version that was seen. */
export function useReviewActs(review: Review) {
  const client = useQueryClient()
  const path = { params: { path: { review_id: review.id } } }
  const onSettled = async () => {
    await fetchAnew(client, ['review', 'reviews', 'desk', 'register', 'document'])
  }
  const seen = { version: review.version }
  return {
    pickUp: useMutation({
      mutationFn: () => unwrap(api.POST('/api/reviews/{review_id}/pick-up', { ...path, body: seen })),
      onSettled,
    }),
    putDown: useMutation({
      mutationFn: () => unwrap(api.POST('/api/reviews/{review_id}/put-down', { ...path, body: seen })),
      onSettled,
    }),
    handIn: useMutation({
      mutationFn: ({
        form,
        ...command
      }: {
        form: Kept
        answers: Schemas['DocumentAnswer'][]
        note: string
      }) =>
        sendOnce(form, (more) =>
          unwrap(
            api.POST('/api/reviews/{review_id}/hand-in', { ...path, ...more, body: { ...seen, ...command } }),
          ),
        ),
      onSettled,
    }),
    cancel: useMutation({
      mutationFn: (reason: string) =>
        unwrap(api.POST('/api/reviews/{review_id}/cancel', { ...path, body: { ...seen, reason } })),
      onSettled,
    }),
  }
}
