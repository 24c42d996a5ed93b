import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { SeatContext, type Project } from '../../api/me'
import { useContext } from 'react'
import { Button } from '../../ui/Button'
import { Following } from '../../ui/Following'
import { ErrorNote } from '../../ui/Notes'
import { PathLink } from '../../ui/PathLink'

/** What I follow in the project I am in. */
export function Follows() {
  const seat = useContext(SeatContext)
  if (!seat) return <p className="text-second">You are in no project yet.</p>
  return <InProject project={seat.project} />
}

function InProject({ project }: { project: Project }) {
  const client = useQueryClient()
  const follows = useQuery({
    queryKey: ['follows', project.id],
    queryFn: () => unwrap(api.GET('/api/follows', { params: { query: { project_id: project.id } } })),
  })
  const stop = useMutation({
    mutationFn: ({ kind, target }: { kind: string; target: string }) =>
      unwrap(
        api.DELETE('/api/follows/{kind}/{target}', {
          params: { path: { kind, target }, query: { project_id: project.id } },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['follow'] })
      await client.invalidateQueries({ queryKey: ['follows'] })
    },
  })
  const listed = follows.data?.follows ?? []
  return (
    <div className="flex max-w-[560px] flex-col gap-2">
      <Following kind="marks" target={project.id} words={`every mark in ${project.number}`} />
      <ErrorNote error={follows.error ?? stop.error} />
      {follows.data && !listed.length && (
        <p className="text-second">
          You follow no single thing in {project.number}. Documents, folders, reviews and transmittals have a
          button for it.
        </p>
      )}
      <ul>
        {listed.map((each) => (
          <li
            key={`${each.kind} ${each.target}`}
            className="flex items-baseline gap-2 border-t border-line/60 py-1"
          >
            <span className="w-[90px] shrink-0 text-second">{each.kind_words}</span>
            <PathLink
              path={each.address}
              className="min-w-0 flex-1 truncate text-plum underline"
              title={each.words}
            >
              {each.words}
            </PathLink>
            <Button small busy={stop.isPending} onClick={() => stop.mutate(each)}>
              Stop following
            </Button>
          </li>
        ))}
      </ul>
    </div>
  )
}
