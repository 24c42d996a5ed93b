import { useMutation, useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSettled } from './useReviews'
import { useHere } from '../../ui/useHere'

export type Comment = Schemas['CommentShown']
export type CommentSheet = Schemas['CommentSheet']
type Act = Schemas['ActOnComment']

/** The comment sheet of a review. */
export function useComments(reviewId: string) {
  return useQuery({
    queryKey: ['review', reviewId, 'comments'],
    queryFn: () =>
      unwrap(api.GET('/api/reviews/{review_id}/comments', { params: { path: { review_id: reviewId } } })),
  })
}

/** An act on one comment, under the version that was seen. */
export function useCommentAct(comment: Comment, onDone: () => void) {
  const onSettled = useSettled()
  const here = useHere()
  return useMutation({
    mutationFn: ({ act, text = '', grave = 'should' }: Pick<Act, 'act'> & Partial<Act>) =>
      unwrap(
        api.POST('/api/review-comments/{comment_id}/act', {
          params: { path: { comment_id: comment.id } },
          body: { version: comment.version, act, text, grave, response_from: '' },
        }),
      ),
    onSuccess: () => here(onDone),
    onSettled,
  })
}
