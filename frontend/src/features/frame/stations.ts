export interface Station {
  to: '/' | '/intake' | '/register' | '/reviews' | '/transmittals' | '/audit'
  words: string
  /** Where the Desk's answer counts what waits here for me. */
  count?: string
  /** The level below which the station is not there. */
  level: string
}

/** The stations in the order of the work. */
export const STATIONS: readonly Station[] = [
  { to: '/', words: 'Desk', level: 'read' },
  { to: '/intake', words: 'Intake', count: 'intake', level: 'file' },
  { to: '/register', words: 'Register', level: 'read' },
  { to: '/reviews', words: 'Reviews', count: 'reviews', level: 'read' },
  { to: '/transmittals', words: 'Transmittals', count: 'transmittals', level: 'read' },
  { to: '/audit', words: 'Audit', level: 'keep' },
]
