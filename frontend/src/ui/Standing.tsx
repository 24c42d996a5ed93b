import { useSeat } from '../api/me'
import type { Schemas } from '../api/client'
import { dayText, fullInstant, instantText } from '../domain/dates'

/** An instant in the project's zone, whole on hovering. */
export function When({ at, time = false }: { at: string | null | undefined; time?: boolean }) {
  const { project } = useSeat()
  if (!at) return null
  return (
    <time dateTime={at} title={fullInstant(at, project.time_zone)} className="whitespace-nowrap">
      {instantText(at, project.time_zone, project.today, time)}
    </time>
  )
}

/** A calendar day. */
export function Day({ on }: { on: string | null | undefined }) {
  const { project } = useSeat()
  if (!on) return null
  return (
    <time dateTime={on} className="whitespace-nowrap">
      {dayText(on, project.today)}
    </time>
  )
}

/** A due day, and how late it is beside it, counted in the days the step counts in. */
export function Due({ standing }: { standing: Pick<Schemas['Standing'], 'due_on' | 'days_late'> }) {
  const { project } = useSeat()
  const today = standing.due_on === project.today
  return (
    <span className="inline-flex items-baseline gap-1.5 whitespace-nowrap">
      <Day on={standing.due_on} />
      {(standing.days_late ?? 0) > 0 && (
        <span className="font-semibold text-brick">{standing.days_late} d late</span>
      )}
      {today && <span className="font-semibold text-ochre">today</span>}
    </span>
  )
}

const OWN_ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

/** An instant with its time, in the zone of whoever looks; in the project's on hovering. */
export function OwnTime({ at }: { at: string }) {
  const { project } = useSeat()
  return (
    <time
      dateTime={at}
      title={`${fullInstant(at, OWN_ZONE)}; in the project ${fullInstant(at, project.time_zone)}`}
      className="whitespace-nowrap"
    >
      {instantText(at, OWN_ZONE, project.today, true)}
    </time>
  )
}
