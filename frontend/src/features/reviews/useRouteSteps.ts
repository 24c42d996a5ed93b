import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'

export type RouteShown = Schemas['RouteShown']
export type StepGiven = Schemas['StepGiven']

export const MOST_STEPS = 10
export const A_STEP: StepGiven = { name: '', act: 'comment', people: [], days: 3, counting: 'working' }

/** What is written on a slip that is empty, or on a copy of one that is there. */
export interface RouteWritten {
  name: string
  purpose: string
  steps: StepGiven[]
}

export function writtenOf(route: RouteShown | undefined): RouteWritten {
  if (!route) return { name: '', purpose: '', steps: [A_STEP] }
  return {
    name: route.name,
    purpose: route.purpose,
    steps: route.steps.map(({ name, act, people, days, counting }) => ({
      name,
      act: act as StepGiven['act'],
      people: people.map((each) => each.id),
      days,
      counting: counting as StepGiven['counting'],
    })),
  }
}

/** All routes of the project, those that are retired too. */
export function useAllRoutes() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['routes', project.id, 'all'],
    queryFn: () =>
      unwrap(api.GET('/api/routes', { params: { query: { project_id: project.id, retired: true } } })),
  })
}

/** When each step would end, were the route begun today, and what cannot work. */
export function useTried(steps: readonly StepGiven[]) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['try-route', project.id, steps],
    queryFn: () =>
      unwrap(api.POST('/api/routes/tried', { body: { project_id: project.id, steps: [...steps] } })),
    placeholderData: (before) => before,
    retry: false,
  })
}
