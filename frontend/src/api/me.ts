import { useQuery } from '@tanstack/react-query'
import { createContext, useContext } from 'react'

import { api, keepCsrfToken, unwrap, type Schemas } from './client'

export type Me = Schemas['Me']
export type Project = Schemas['Project']

export function useMeQuery() {
  return useQuery({
    queryKey: ['me'],
    queryFn: async () => {
      const me = await unwrap(api.GET('/api/me'))
      keepCsrfToken(me.csrf_token, me.person.id)
      return me
    },
    retry: false,
    staleTime: 60_000,
  })
}

export interface Seat {
  me: Me
  project: Project
}

export const SeatContext = createContext<Seat | null>(null)

/** The person signed in and the project they are in; only inside the frame. */
export function useSeat(): Seat {
  const seat = useContext(SeatContext)
  if (!seat) throw new Error('outside the frame')
  return seat
}

const ORDER = ['none', 'read', 'mark', 'file', 'keep']

/** Whether the server granted at least this level; it decides again on every act. */
export function hasLevel(project: Project, level: string): boolean {
  return ORDER.indexOf(project.level) >= ORDER.indexOf(level)
}
