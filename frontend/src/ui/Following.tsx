import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap } from '../api/client'
import { useSeat } from '../api/me'
import { Button } from './Button'
import { ErrorNote } from './Notes'

interface Props {
  kind: string
  target: string
  /** How it is called here, after "Follow": "this document". */
  words: string
}

/** Whether I am told of what happens to something, and who else is. */
export function Following({ kind, target, words }: Props) {
  const { me, project } = useSeat()
  const client = useQueryClient()
  const params = { path: { kind, target }, query: { project_id: project.id } }
  const following = useQuery({
    queryKey: ['follow', kind, target],
    queryFn: () => unwrap(api.GET('/api/follows/{kind}/{target}', { params })),
  })
  const mine = following.data?.mine ?? false
  const change = useMutation({
    mutationFn: () =>
      mine
        ? unwrap(api.DELETE('/api/follows/{kind}/{target}', { params }))
        : unwrap(api.POST('/api/follows/{kind}/{target}', { params })),
    onSuccess: (answer) => {
      client.setQueryData(['follow', kind, target], answer)
      return client.invalidateQueries({ queryKey: ['follows'] })
    },
  })
  const others = (following.data?.followers ?? []).filter((each) => each.id !== me.person.id)
  return (
    <div className="flex flex-wrap items-baseline gap-x-2 text-list">
      <Button
        small
        aria-pressed={mine}
        busy={!following.data || change.isPending}
        why={me.looker !== '' && 'You see as somebody else.'}
        title={me.looker ? 'Nothing can be changed through another’s eyes' : undefined}
        onClick={() => change.mutate()}
      >
        {mine ? `Stop following ${words}` : `Follow ${words}`}
      </Button>
      {others.length > 0 && (
        <span className="text-second">followed by {others.map((each) => each.name).join(', ')}</span>
      )}
      <ErrorNote error={following.error ?? change.error} />
    </div>
  )
}
