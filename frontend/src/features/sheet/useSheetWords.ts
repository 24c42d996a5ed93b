import { useQuery } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../api/client'

export type Hit = Schemas['WordsFound']

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
