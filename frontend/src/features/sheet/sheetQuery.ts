import { queryOptions, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { sheetAfter } from '../../ui/sheetList'

type Sheet = Schemas['Sheet']

export const sheetQuery = (revisionId: string) =>
  queryOptions({
    queryKey: ['sheet', revisionId],
    queryFn: () =>
      unwrapAs<Sheet>(
        api.GET('/api/sheets/{revision_id}', { params: { path: { revision_id: revisionId } } }),
      ),
  })

const CALM_MS = 1200

/** Where the picture of the first page is, if there is one. */
export function wholePage({ revision_id, pages, whole_level }: Sheet): string {
  return pages.length ? `/api/sheets/${revision_id}/tiles/0/${whole_level}` : ''
}

/** The next sheet of the list is there when it is gone to. */
export function useNextAhead(documentId: string) {
  const client = useQueryClient()
  useEffect(() => {
    const next = sheetAfter(documentId, 1)
    if (!next) return
    const timer = setTimeout(() => {
      client.fetchQuery({ ...sheetQuery(next.revisionId), staleTime: 15_000 }).then(
        (sheet) => {
          const address = wholePage(sheet)
          if (address) new Image().src = address
        },
        // It is asked for again, and told, when it is gone to.
        () => undefined,
      )
    }, CALM_MS)
    return () => clearTimeout(timer)
  }, [client, documentId])
}
