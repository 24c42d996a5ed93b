import { useQuery } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'

/** Those in the project, or invited to it, who can be named for a step. */
export function usePeopleToChoose() {
  const { project } = useSeat()
  const people = useQuery({
    queryKey: ['people', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/projects/{project_id}/people', { params: { path: { project_id: project.id } } })),
  })
  const members = people.data?.members.filter((each) => each.state === 'active' || each.state === 'invited')
  return {
    choices: members?.map(({ who }) => ({ key: who.id, words: who.name, note: who.company })) ?? [],
    error: people.error,
  }
}
