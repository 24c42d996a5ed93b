import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../api/client'
import { useSeat } from '../api/me'
import { ErrorNote, Loading } from './Notes'
import { When } from './Standing'

type Entry = Schemas['Entry']

/** The timeline of one thing, newest first. */
export function Timeline({ subjectId }: { subjectId: string }) {
  const { project } = useSeat()
  const trail = useQuery({
    queryKey: ['trail', subjectId],
    queryFn: () =>
      unwrap(api.GET('/api/audit', { params: { query: { project_id: project.id, subject_id: subjectId } } })),
  })
  if (trail.error) return <ErrorNote error={trail.error} />
  if (!trail.data) return <Loading what="the trail" />
  return (
    <ol className="border-l border-line pl-4">
      {trail.data.entries.map((entry) => (
        <li key={entry.leaf} className="relative pb-3">
          <span aria-hidden className="absolute top-[7px] -left-[20px] size-[7px] bg-second" />
          <p className="text-list">
            <span className="font-semibold">{entry.who}</span>{' '}
            {entry.company && <span className="code text-second">{entry.company}</span>} {entry.words}
            {entry.private && <span className="text-second"> (only you see this)</span>}
          </p>
          <Details entry={entry} />
          <p className="text-note text-second">
            <When at={entry.at} time /> · {entry.seq !== null && `entry ${entry.seq} · `}
            {entry.came_from}
          </p>
        </li>
      ))}
    </ol>
  )
}

const NAMES: Record<string, string> = {
  sheet_size: 'sheet size',
  file_name: 'file name',
  sha256: 'SHA-256',
  pin_number: 'pin',
  cover_sha256: 'cover SHA-256',
  pack_sha256: 'ZIP SHA-256',
  proof_sha256: 'proof SHA-256',
  active_content: 'active content',
}

const HIDDEN = new Set(['points', 'steps'])

/** What changed, before and after. */
export function Details({ entry }: { entry: Entry }) {
  const keys = Object.keys(entry.after).filter((key) => !HIDDEN.has(key) && said(entry.after[key]) !== '')
  if (!keys.length && !entry.why) return null
  return (
    <div className="text-note break-words text-second">
      {keys.map((key, place) => (
        <span key={key}>
          {place > 0 && ' · '}
          {NAMES[key] ?? key.replaceAll('_', ' ')}{' '}
          {entry.before[key] !== undefined && (
            <>
              <del className="text-brick">{said(entry.before[key])}</del>{' '}
            </>
          )}
          <span className="text-ink">{said(entry.after[key])}</span>
        </span>
      ))}
      {entry.why && <p className="text-ink">“{entry.why}”</p>}
    </div>
  )
}

/** Files with their SHA-256, one a line as `sha256sum` writes them: how many; each stands in the proof of the entry. */
const HASHED = /^[0-9a-f]{64} {2}/

function said(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (Array.isArray(value) && value.every((each) => HASHED.test(String(each))) && value.length > 0)
    return `${value.length} with their SHA-256`
  if (Array.isArray(value)) return value.map(said).join('; ')
  if (typeof value === 'object') return Object.values(value).map(said).filter(Boolean).join(', ')
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return /^[0-9a-f]{64}$/.test(text) ? `${text.slice(0, 12)}…` : text
}
