import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { useSeat } from '../../../api/me'

export type People = Schemas['People']
export type MemberLine = Schemas['MemberLine']

/** A person about to be added. */
export interface Line {
  key: string
  name: string
  email: string
  known: Schemas['Known'] | null
  trouble: string
  company_id: string
  company_name: string
  company_code: string
  company_part: string
  roles: string[]
  contact: boolean
  level: Schemas['PersonToAdd']['level']
  tools: string[] | null
}

export function usePeople() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['people', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/projects/{project_id}/people', { params: { path: { project_id: project.id } } })),
  })
}

/** Acts on one member; the list follows. */
export function useMemberActs(personId: string) {
  const { project } = useSeat()
  const client = useQueryClient()
  const params = { path: { project_id: project.id, person_id: personId } }
  const onSettled = async () => {
    await fetchAnew(client, ['people', 'access', 'me', 'open-work', 'reviews', 'desk'])
  }
  return {
    change: useMutation({
      mutationFn: (body: Schemas['ChangeMember']) =>
        unwrap(api.POST('/api/projects/{project_id}/people/{person_id}', { params, body })),
      onSettled,
    }),
    invite: useMutation({
      mutationFn: () =>
        unwrap(api.POST('/api/projects/{project_id}/people/{person_id}/invitation', { params })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (body: Schemas['RemoveMember']) =>
        unwrap(api.POST('/api/projects/{project_id}/people/{person_id}/remove', { params, body })),
      onSettled,
    }),
  }
}

export const STATES: Record<string, string> = {
  active: 'active',
  invited: 'invited',
  contact: 'outside contact',
  removed: 'removed',
}
