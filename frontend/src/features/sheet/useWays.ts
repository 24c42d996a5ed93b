import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'

import { api, unwrapAs, type Schemas } from '../../api/client'

type Box = [number, number, number, number]

/** A place on a page that leads elsewhere; `box` in PDF points. */
export interface Way {
  box: Box
  words: string
  go: () => void
}

const meet = (one: Box, other: Box) =>
  one[0] < other[2] && other[0] < one[2] && one[1] < other[3] && other[1] < one[3]

/** From a page of a sheet: numbers of other documents on it, and links of the file. */
export function useWays(sheet: Schemas['Sheet'], page: number, onPage: (page: number) => void): Way[] {
  const navigate = useNavigate()
  const params = { revision_id: sheet.revision_id }
  const references = useQuery({
    queryKey: ['references', sheet.revision_id],
    queryFn: () =>
      unwrapAs<Schemas['References']>(
        api.GET('/api/sheets/{revision_id}/references', { params: { path: params } }),
      ),
  })
  const links = useQuery({
    queryKey: ['links', sheet.revision_id, page],
    queryFn: () =>
      unwrapAs<Schemas['SheetLinks']>(
        api.GET('/api/sheets/{revision_id}/links/{page}', { params: { path: { ...params, page } } }),
      ),
  })

  function toDocument(to: { is_sheet: boolean; revision_id: string; document_id: string }) {
    void (to.is_sheet
      ? navigate({ to: '/sheet/$revisionId', params: { revisionId: to.revision_id } })
      : navigate({ to: '/register', search: { document: to.document_id } }))
  }

  function follow(link: Schemas['SheetLink']) {
    if (link.kind === 'page') onPage(link.page)
    else if (link.kind === 'web') window.open(link.address, '_blank', 'noopener,noreferrer')
    else toDocument(link)
  }

  const said = (references.data?.references ?? []).filter((each) => each.page === page)
  const told = links.data?.links ?? []
  return [
    ...said.map((each) => ({
      box: each.box,
      words: `${each.number} ${each.title}`,
      go: () => toDocument(each),
    })),
    ...told
      // A number that is a link too is one way.
      .filter((each) => !said.some((one) => one.document_id === each.document_id && meet(one.box, each.box)))
      .map((each) => ({ box: each.box, words: each.words, go: () => follow(each) })),
  ]
}
