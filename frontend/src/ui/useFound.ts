import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../api/client'
import { useSeat } from '../api/me'

/** A thing that was found by words. */
export interface FoundThing {
  kind: string
  target: string
  number: string
  words: string
}

function foundIn(found: Schemas['Found'] | undefined, kinds: readonly string[]): FoundThing[] {
  if (!found) return []
  const documents = found.documents.map((each) => ({
    kind: 'document',
    target: each.document_id,
    number: each.number,
    words: each.title,
  }))
  const others = found.others.flatMap((group) =>
    group.things
      .filter((each) => kinds.includes(each.kind))
      .map((each) => ({
        kind: each.kind,
        target: each.target,
        number: each.number,
        words: `${each.kind_words} ${each.words.replace(each.number, '').trim()}`.trim(),
      })),
  )
  return [...others, ...documents]
}

/** Documents, and things of these kinds, that words may mean; nothing for less than two letters. */
export function useFound(words: string, kinds: readonly string[]) {
  const { project } = useSeat()
  const asked = words.trim().length > 1
  const found = useQuery({
    queryKey: ['find', project.id, words],
    queryFn: () =>
      unwrap(api.GET('/api/search', { params: { query: { project_id: project.id, words, limit: 8 } } })),
    enabled: asked,
    placeholderData: (previous) => previous,
  })
  const things = asked ? foundIn(found.data, kinds) : []
  return { things, none: asked && found.data !== undefined && !things.length, error: found.error }
}
