import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'

export type RouteShown = Schemas['RouteShown']
export type StageGiven = Schemas['StageGiven']
export type StepGiven = Schemas['StepGiven']
export type Tried = Schemas['RouteTried'] | undefined

export const MOST_STEPS = 10
export const A_STEP: StepGiven = {
  name: '',
  act: 'comment',
  whom: [],
  quota: 'any',
  least: 1,
  days: 3,
  counting: 'working',
  own_allowed: false,
  sums_up: false,
  remind: { before: 1, every: 2, lead_after: 3 },
  handing_on: true,
  verdicts: '',
  marking: true,
}
export const A_ROW: StageGiven = { steps: [A_STEP], then: {} }

/** What is written on a slip that is empty, or on a copy of one that is there. */
export interface RouteWritten {
  name: string
  purpose: string
  stages: StageGiven[]
  may_start: Schemas['NamedGiven'][]
  ends: Record<string, Schemas['EndGiven']>
  may_change: boolean
  shows: NonNullable<Schemas['WriteRoute']['shows']>
}

export function writtenOf(route: RouteShown | undefined): RouteWritten {
  if (!route)
    return {
      name: '',
      purpose: '',
      stages: [A_ROW],
      may_start: [],
      ends: {},
      may_change: false,
      shows: 'at_once',
    }
  return {
    name: route.name,
    purpose: route.purpose,
    stages: route.stages.map(({ steps, then }) => ({
      steps: steps.map(stepOf),
      then: then as StageGiven['then'],
    })),
    may_start: route.starters.map(named),
    ends: route.ends,
    may_change: route.may_change,
    shows: route.shows as RouteWritten['shows'],
  }
}

function stepOf(step: Schemas['RouteStepShown']): StepGiven {
  const {
    name,
    quota,
    act,
    least,
    days,
    counting,
    own_allowed,
    sums_up,
    remind,
    handing_on,
    verdicts,
    marking,
    whom,
  } = step
  return {
    name,
    quota,
    act,
    least,
    days,
    counting,
    own_allowed,
    sums_up,
    remind,
    handing_on,
    verdicts,
    marking,
    whom: whom.map(named),
  } as StepGiven
}

function named({ kind, id }: Schemas['NamedShown']) {
  return { kind: kind as Schemas['NamedGiven']['kind'], id }
}

export function countSteps(stages: readonly { steps: readonly unknown[] }[]): number {
  return stages.reduce((count, stage) => count + stage.steps.length, 0)
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
export function useTried(stages: readonly StageGiven[], ends: RouteWritten['ends'], runs = true) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['try-route', project.id, stages, ends],
    queryFn: () =>
      unwrap(api.POST('/api/routes/tried', { body: { project_id: project.id, stages: [...stages], ends } })),
    // Who only starts a review is told by its own check.
    enabled: runs,
    placeholderData: (before) => before,
    retry: false,
  })
}
