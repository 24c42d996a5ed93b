import { Link } from '@tanstack/react-router'

import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { useHeld } from './useIntake'
import { isLost } from '../../api/fetched'

/** Everything held, of all batches, the oldest first: what waits for an answer, and since when. */
export function HeldTray() {
  const held = useHeld()
  if (isLost(held)) return <ErrorNote error={held.error} again={() => void held.refetch()} />
  if (!held.data) return <Loading what="the held files" />
  if (!held.data.length)
    return (
      <Empty title="Held">
        Nothing is held. Files that a finding stops wait here with their reason until somebody answers.
      </Empty>
    )
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <header className="border-b border-line px-4 py-2">
        <h1 className="text-head font-semibold">Held</h1>
        <p className="text-list text-second">
          {held.data.length} file{held.data.length > 1 ? 's' : ''}, the oldest first. Open one to mend it,
          send it back or discard it.
        </p>
      </header>
      <div className="min-h-0 flex-1 overflow-auto">
        <table className="w-full table-fixed border-collapse text-list">
          <thead className="sticky top-0 z-10 bg-surface text-left text-note text-second">
            <tr className="border-b border-second/40">
              <th className="w-[110px] px-4 py-1.5 font-semibold">Held since</th>
              <th className="w-[60px] font-semibold">Days</th>
              <th className="w-[180px] px-2 font-semibold">From</th>
              <th className="w-[260px] px-2 font-semibold">File</th>
              <th className="px-2 font-semibold">Reason</th>
            </tr>
          </thead>
          <tbody>
            {held.data.map((each) => (
              <tr key={each.id} className="border-b border-line/60 align-top">
                <td className="px-4 py-1.5">
                  <When at={each.held_at} />
                </td>
                <td className="code py-1.5">{each.days} d</td>
                <td className="truncate px-2 py-1.5">{each.came_from}</td>
                <td className="px-2 py-1.5">
                  <Link
                    to="/intake/$batchId"
                    params={{ batchId: each.batch_id }}
                    search={{ file: each.id }}
                    className="block truncate text-plum underline"
                    title={each.file_name}
                  >
                    {each.file_name}
                  </Link>
                </td>
                <td className="px-2 py-1.5">{each.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  )
}
