import { Link } from '@tanstack/react-router'

import { isLost } from '../../api/fetched'
import { counted } from '../../domain/counted'
import { ErrorNote } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { useDrafts } from './useTransmittals'

/** What my company prepares and has not sent: begun by somebody, or proposed. */
export function Drafts() {
  const drafts = useDrafts()
  if (isLost(drafts)) return <ErrorNote error={drafts.error} again={() => void drafts.refetch()} />
  if (!drafts.data?.length) return null
  return (
    <section aria-label="Drafts" className="border-b border-line bg-ochre-tint/40">
      <h2 className="px-4 pt-1.5 text-note font-semibold text-second">
        {counted(drafts.data.length, 'draft')} of your company
      </h2>
      <ul className="max-h-[170px] overflow-y-auto overflow-x-hidden px-4 pb-1.5 text-list">
        {drafts.data.map((draft) => (
          <li key={draft.id} className="flex flex-wrap items-baseline gap-x-3">
            <Link
              to="/transmittals/new"
              search={{ draft: draft.id }}
              className="inline-block min-h-6 min-w-0 break-words leading-6 text-plum underline"
            >
              {counted(draft.documents, 'document')}
              {draft.people.length > 0
                ? ` to ${draft.people.map((each) => each.name).join(', ')}`
                : ', to nobody yet'}
            </Link>
            {draft.why && <span className="text-second">{draft.why}</span>}
            <span className="ml-auto text-second">
              {draft.changed_by.name}, <When at={draft.changed_at} time />
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
