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

/** Where the tiles are that show the first page as a whole. */
export function wholePageTiles({ revision_id, pages, tile_px, whole_level }: Sheet): string[] {
  const page = pages[0]
  if (!page) return []
  const scale = 2 ** whole_level / Math.max(page.width_pt, page.height_pt)
  const count = (points: number) => Math.ceil((points * scale) / tile_px)
  return Array.from({ length: count(page.height_pt) }, (_, row) =>
    Array.from(
      { length: count(page.width_pt) },
      (_, column) => `/api/sheets/${revision_id}/tiles/0/${whole_level}/${column}/${row}`,
    ),
  ).flat()
}

/** The next sheet of the list is there when it is gone to. */
export function useNextAhead(documentId: string) {
  const client = useQueryClient()
  useEffect(() => {
    const next = sheetAfter(documentId, 1)
    if (!next) return
    const timer = setTimeout(() => {
      client.fetchQuery({ ...sheetQuery(next.revisionId), staleTime: 15_000 }).then(
        (sheet) => wholePageTiles(sheet).forEach((address) => (new Image().src = address)),
        // It is asked for again, and told, when it is gone to.
        () => undefined,
      )
    }, CALM_MS)
    return () => clearTimeout(timer)
  }, [client, documentId])
}
