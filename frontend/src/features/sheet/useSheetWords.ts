import { useQuery } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../api/client'

export type Hit = Schemas['WordsFound']
export type Reference = Schemas['Reference']

/** Where the sheet says `words`; nothing is asked while there are fewer than two letters. */
export function useFoundWords(revisionId: string, words: string) {
  return useQuery({
    queryKey: ['sheet-words', revisionId, words],
    enabled: words.trim().length > 1,
    placeholderData: (before: Schemas['FoundOnSheet'] | undefined) => before,
    staleTime: Infinity,
    queryFn: () =>
      unwrapAs<Schemas['FoundOnSheet']>(
        api.GET('/api/sheets/{revision_id}/words', {
          params: { path: { revision_id: revisionId }, query: { words } },
        }),
      ),
  })
}

/** Numbers of other documents on the sheet. */
export function useReferences(revisionId: string) {
  return useQuery({
    queryKey: ['references', revisionId],
    queryFn: () =>
      unwrapAs<Schemas['References']>(
        api.GET('/api/sheets/{revision_id}/references', { params: { path: { revision_id: revisionId } } }),
      ),
  })
}
