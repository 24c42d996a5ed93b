import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { OwnTime } from '../../../ui/Standing'

/** The sessions that a document is or was in, as far as I take part in them. */
export function InSessions({ documentId }: { documentId: string }) {
  const { project } = useSeat()
  const found = useQuery({
    queryKey: ['sessions', 'of', documentId],
    queryFn: () =>
      unwrap(
        api.GET('/api/documents/{document_id}/sessions', {
          params: { path: { document_id: documentId } },
        }),
      ),
    enabled: project.tools.includes('sessions'),
  })
  const sessions = found.data?.sessions ?? []
  if (!sessions.length) return null
  return (
    <section aria-label="Sessions" className="border-t border-line pt-3">
      <h3 className="mb-1 text-body font-semibold">Sessions</h3>
      <ul className="text-list">
        {sessions.map((each) => (
          <li key={each.id} className="flex flex-wrap items-baseline gap-x-2 py-0.5">
            <Link
              to="/sessions/$sessionId"
              params={{ sessionId: each.id }}
              className="inline-flex min-h-6 items-center text-plum underline"
            >
              <span className="code mr-1.5">{each.number}</span> {each.name}
            </Link>
            <span className="text-second">
              {each.state}, <OwnTime at={each.closed_at ?? each.opens_at} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
