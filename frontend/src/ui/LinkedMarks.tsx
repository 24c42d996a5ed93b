import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'

import { api, unwrapAs, type Schemas } from '../api/client'
import { useSeat } from '../api/me'

/** The marks that lead to a thing, each with the way to its sheet; nothing where there are none. */
export function LinkedMarks({ kind, target }: { kind: string; target: string }) {
  const { project } = useSeat()
  const found = useQuery({
    queryKey: ['linked', kind, target],
    queryFn: () =>
      unwrapAs<Schemas['LinkedMarks']>(
        api.GET('/api/linked/{kind}/{target}', {
          params: { path: { kind, target }, query: { project_id: project.id } },
        }),
      ),
  })
  const marks = found.data?.marks ?? []
  if (!marks.length) return null
  return (
    <section aria-label="Linked on sheets" className="border-t border-line pt-3">
      <h3 className="mb-1 text-body font-semibold">
        Linked on sheets <span className="font-normal text-second">{marks.length}</span>
      </h3>
      <ul className="text-list">
        {marks.map((mark) => (
          <li key={mark.mark_id} className="mb-1">
            <Link
              to="/sheet/$revisionId"
              params={{ revisionId: mark.revision_id }}
              search={{ mark: mark.mark_id }}
              className="code text-plum underline"
            >
              {mark.number}
            </Link>{' '}
            <span className="code font-bold">{mark.revision}</span>{' '}
            <span>{mark.words || `a ${mark.kind}`}</span>{' '}
            <span className="text-second">
              {mark.author.name}
              {mark.in_pencil && ', in pencil'}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
