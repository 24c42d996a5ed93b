import type { Schemas } from '../../api/client'
import { ThingLink } from '../../ui/ThingLink'

/** What a letter speaks of, as links. */
export function Speaks({ about }: { about: readonly Schemas['Thing'][] }) {
  if (!about.length) return null
  return (
    <p className="text-list">
      <span className="text-second">Speaks of </span>
      {about.map((each, place) => (
        <span key={each.target}>
          {place > 0 && ', '}
          <ThingLink thing={each} />
        </span>
      ))}
    </p>
  )
}
