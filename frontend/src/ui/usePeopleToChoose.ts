import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../api/client'
import { useSeat } from '../api/me'

export type NamedGiven = Schemas['NamedGiven']

export function usePeople() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['people', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/projects/{project_id}/people', { params: { path: { project_id: project.id } } })),
  })
}

const HERE = ['active', 'invited']

/** Those in the project, or invited to it, who can be named for a step; and outside contacts, where these can be. */
export function usePeopleToChoose(contacts = false) {
  const people = usePeople()
  const there = contacts ? [...HERE, 'contact'] : HERE
  const members = people.data?.members.filter((each) => there.includes(each.state))
  const choices = members?.map(({ who, state }) => ({
    key: who.id,
    words: state === 'contact' ? `${who.name} (outside, by link or mail)` : who.name,
    note: who.company,
  }))
  return { choices: choices ?? [], error: people.error }
}

/**
 * People, roles and companies in one list; each is chosen by its kind and id. `outside` says what becomes of outside
 * contacts; without it they are left out.
 */
export function useWhomToChoose(outside = '') {
  const people = usePeople()
  const { choices, error } = usePeopleToChoose()
  const roles = people.data?.roles.map((each) => ({
    key: keyOf({ kind: 'role', id: each.code }),
    words: each.name,
    note: `role, ${each.people}`,
  }))
  const companies = people.data?.companies.map((each) => ({
    key: keyOf({ kind: 'company', id: each.id }),
    words: each.name,
    note: `company, ${each.people}`,
  }))
  const named = choices.map((each) => ({ ...each, key: keyOf({ kind: 'person', id: each.key }) }))
  const contacts = (people.data?.members ?? [])
    .filter((each) => each.state === 'contact' && outside)
    .map(({ who }) => ({
      key: keyOf({ kind: 'person', id: who.id }),
      words: who.name,
      note: `${who.company}, outside: ${outside}`,
    }))
  return { choices: [...named, ...contacts, ...(roles ?? []), ...(companies ?? [])], error }
}

export function keyOf(named: NamedGiven): string {
  return `${named.kind} ${named.id}`
}

export function namedOf(key: string): NamedGiven {
  const [kind, id = ''] = key.split(' ')
  return { kind: kind as NamedGiven['kind'], id }
}
