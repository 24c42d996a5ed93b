import { hasLevel, type Project } from '../../api/me'

export interface Station {
  to:
    | '/'
    | '/intake'
    | '/register'
    | '/sessions'
    | '/reviews'
    | '/submittals'
    | '/transmittals'
    | '/letters'
    | '/mail'
    | '/audit'
    | '/setup'
  words: string
  /** Where the Desk's answer counts what waits here for me. */
  count?: string
  /** The level below which the station is not there. */
  level: string
  /** Only for those who run the project. */
  runs?: boolean
  /** The tool without which it is not there. */
  tool?: string
}

/** The stations in the order of the work. */
export const STATIONS: readonly Station[] = [
  { to: '/', words: 'Desk', level: 'none' },
  { to: '/intake', words: 'Intake', count: 'intake', level: 'file' },
  { to: '/register', words: 'Register', level: 'none' },
  { to: '/sessions', words: 'Sessions', level: 'none', tool: 'sessions' },
  { to: '/reviews', words: 'Reviews', count: 'reviews', level: 'none', tool: 'reviews' },
  { to: '/submittals', words: 'Submittals', count: 'submittals', level: 'none', tool: 'submittals' },
  {
    to: '/transmittals',
    words: 'Transmittals',
    count: 'transmittals',
    level: 'none',
    tool: 'transmittals',
  },
  { to: '/letters', words: 'Letters', count: 'letters', level: 'none', tool: 'letters' },
  { to: '/mail', words: 'Mail', count: 'mail', level: 'none', runs: true },
  { to: '/audit', words: 'Audit', level: 'none' },
  { to: '/setup', words: 'Set-up', level: 'keep' },
]

/** Those that are there for the person in this project. */
export function stationsFor(project: Project): Station[] {
  return STATIONS.filter(
    (station) =>
      hasLevel(project, station.level) &&
      (!station.runs || project.runs) &&
      (!station.tool || project.tools.includes(station.tool)),
  )
}
