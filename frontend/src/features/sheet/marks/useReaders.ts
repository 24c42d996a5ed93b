import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'

export type MarkReaders = Schemas['MarkReaders']

/** Who reads what is inked: nobody named is everybody who sees the sheet. */
export const EVERYBODY: MarkReaders = { kind: 'everybody', id: '', words: 'everybody who sees the sheet' }

export const readersKey = ({ kind, id }: MarkReaders) => `${kind} ${id}`

/** A company keeps it to itself; the people of a thing are said as they are. */
export const readersWords = ({ kind, words }: MarkReaders) => (kind === 'company' ? `${words} alone` : words)

/** For whom one may ink on a sheet: what the project or a review offers first, until somebody chooses otherwise. */
export function useReaders(revisionId: string, mayMark: boolean) {
  const [chosen, setChosen] = useState('')
  const offered = useQuery({
    queryKey: ['ink-readers', revisionId],
    queryFn: () =>
      unwrap(api.GET('/api/sheets/{revision_id}/readers', { params: { path: { revision_id: revisionId } } })),
    enabled: mayMark,
  })
  const groups = offered.data?.groups ?? []
  const first = groups[offered.data?.first ?? -1] ?? EVERYBODY
  const all = [EVERYBODY, ...groups]
  return {
    all,
    /** Until it is known what is offered first, nothing is inked: it could not be taken back. */
    known: offered.data !== undefined,
    readers: all.find((each) => readersKey(each) === chosen) ?? first,
    choose: setChosen,
  }
}
