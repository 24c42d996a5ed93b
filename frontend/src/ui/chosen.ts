import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../api/client'
import { useSeat } from '../api/me'

export type ChosenLine = Schemas['ChosenLine']

const MOST_IN_ADDRESS = 60
const PREFIX = 'many-'

/** Ids for an address: a few as they are, many by a name under which this page of the browser keeps them. */
export function idsForAddress(ids: readonly string[]): string {
  if (ids.length <= MOST_IN_ADDRESS) return ids.join(',')
  const name = `${PREFIX}${ids.length}-${digest(ids.join())}`
  try {
    sessionStorage.setItem(`nod.${name}`, ids.join(','))
  } catch {
    // Without room there they are kept as long as the page lives.
    inPage.set(name, ids.join(','))
  }
  return name
}

/** Tells one choice from another: FNV-1a of its ids. */
function digest(text: string): string {
  let hash = 0x811c9dc5
  for (let at = 0; at < text.length; at += 1) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193)
  return (hash >>> 0).toString(36)
}

const inPage = new Map<string, string>()

/** What `idsForAddress` made an address of; nothing for a name that another page of the browser kept. */
export function idsOfAddress(text: string): string[] {
  const plain = text.startsWith(PREFIX)
    ? (inPage.get(text) ?? sessionStorage.getItem(`nod.${text}`) ?? '')
    : text
  return plain.split(',').filter(Boolean)
}

type Asked = Omit<Schemas['Choose'], 'project_id'>

export function askChosen(projectId: string, asked: Partial<Asked>) {
  return unwrap(api.POST('/api/documents/chosen', { body: { project_id: projectId, set_id: '', ...asked } }))
}

/** What acts on chosen documents need to know of them. */
export function useChosen(asked: Partial<Asked>) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['chosen', project.id, asked],
    queryFn: () => askChosen(project.id, asked),
  })
}
