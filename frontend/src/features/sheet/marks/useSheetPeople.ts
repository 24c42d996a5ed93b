import { useQuery } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../../api/client'

/** Those who see the sheet: a mark can be for them, and name them. */
export function useSheetPeople(revisionId: string) {
  return useQuery({
    queryKey: ['sheet-people', revisionId],
    queryFn: () =>
      unwrapAs<Schemas['SheetPeople']>(
        api.GET('/api/sheets/{revision_id}/people', { params: { path: { revision_id: revisionId } } }),
      ),
    staleTime: 60_000,
  })
}
