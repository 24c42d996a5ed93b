import type { Schemas } from '../api/client'

type Standing = Schemas['RevisionStanding']

const TONES: Record<string, string> = {
  in_force: 'text-spruce',
  ahead: 'text-slate',
  not_released: 'text-ochre',
  unreleased: 'text-second',
  superseded: 'text-brick',
  withdrawn: 'text-brick',
}
const SHORT: Record<string, string> = {
  in_force: 'in force',
  ahead: 'in force',
  not_released: 'not released',
  unreleased: 'not released',
  superseded: 'superseded',
  withdrawn: 'withdrawn',
}

/** Whether a revision is to be worked from, in one word; the whole sentence on hovering. */
export function StandingWord({ standing }: { standing: Standing }) {
  return (
    <span title={standing.words} className={`font-semibold ${TONES[standing.kind] ?? ''}`}>
      {SHORT[standing.kind] ?? standing.words}
    </span>
  )
}

/** Whether a revision is to be worked from, as a sentence that names the others. */
export function StandingLine({ standing, className = '' }: { standing: Standing; className?: string }) {
  return (
    <p role="status" className={`font-semibold ${TONES[standing.kind] ?? ''} ${className}`}>
      {standing.words}
    </p>
  )
}
