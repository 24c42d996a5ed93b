import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'

/** A step that asks me about the revision on the sheet. */
export type SheetPart = Schemas['SheetPart']

export function useSheetParts(revisionId: string, asked = true) {
  return useQuery({
    enabled: asked,
    queryKey: ['review', 'on-sheet', revisionId],
    queryFn: () =>
      unwrap(
        api.GET('/api/revisions/{revision_id}/review-parts', {
          params: { path: { revision_id: revisionId } },
        }),
      ),
  })
}

/** The step by which I answer on this revision in words alone; none where another takes marks. */
export function useWordsOnly(revisionId: string, asked: boolean): SheetPart | undefined {
  const parts = useSheetParts(revisionId, asked).data ?? []
  return parts.some((part) => part.marking) ? undefined : parts[0]
}
