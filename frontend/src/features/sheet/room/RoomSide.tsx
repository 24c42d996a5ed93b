import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import type { ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { OwnTime } from '../../../ui/Standing'
import { MarkList } from '../marks/MarkList'
import { STATES } from '../marks/markFilter'
import { useSheet } from '../sheetContext'
import { setRoom } from './roomState'

type Happening = Schemas['Happening']

/** At the side of the sheet: its marks, and in a room what happened. */
export function Side() {
  const { room } = useSheet()
  if (!room) return <MarkList />
  const tabs = <SideTabs side={room.side} />
  return room.side === 'marks' ? (
    <MarkList above={tabs} />
  ) : (
    <Happened above={tabs} sessionId={room.session.line.id} />
  )
}

function SideTabs({ side }: { side: 'marks' | 'happened' }) {
  const tab = (key: 'marks' | 'happened', words: string) => (
    <button
      type="button"
      aria-pressed={side === key}
      onClick={() => setRoom({ side: key })}
      className="-mb-px min-h-8 border-b-2 border-transparent px-2 text-list text-second aria-pressed:border-plum aria-pressed:font-semibold aria-pressed:text-ink"
    >
      {words}
    </button>
  )
  return (
    <div role="group" aria-label="At the side" className="flex gap-1 border-b border-line px-2">
      {tab('marks', 'Marks')}
      {tab('happened', 'What happened')}
    </div>
  )
}

const AGAIN_MS = 4000

/** What happened in the session, the newest first; pressed, it goes there. */
function Happened({ above, sessionId }: { above: ReactNode; sessionId: string }) {
  const found = useQuery({
    queryKey: ['session-happened', sessionId],
    queryFn: () =>
      unwrap(api.GET('/api/sessions/{session_id}/happened', { params: { path: { session_id: sessionId } } })),
    refetchInterval: AGAIN_MS,
  })
  return (
    <aside
      aria-label="What happened"
      className="flex h-full w-[340px] shrink-0 flex-col border-l border-line bg-surface max-md:absolute max-md:right-0 max-md:z-20 max-md:max-w-[calc(100%-40px)]"
    >
      {above}
      <ErrorNote error={found.error} again={() => void found.refetch()} />
      {found.isPending && <Loading what="what happened" />}
      {found.data && found.data.happened.length === 0 && (
        <p className="px-3 py-3 text-second">Nothing yet.</p>
      )}
      <ol className="min-h-0 flex-1 overflow-auto">
        {found.data?.happened.map((each, place) => (
          <li key={`${each.at} ${place}`} className="border-b border-line">
            <Line happening={each} sessionId={sessionId} />
          </li>
        ))}
        {found.data?.more && (
          <li className="px-3 py-2 text-note text-second">What was before is in the session’s trail.</li>
        )}
      </ol>
    </aside>
  )
}

function said({ did, state }: Happening): string {
  if (did === 'came') return 'came'
  if (did === 'answered') return 'answered'
  if (did === 'set') return `set ${(STATES[state as keyof typeof STATES] ?? state).toLowerCase()}`
  return 'marked'
}

function Line({ happening, sessionId }: { happening: Happening; sessionId: string }) {
  const navigate = useNavigate()
  const { choose, sheet } = useSheet()
  const words = (
    <>
      <span className="flex justify-between gap-2 text-note text-second">
        <span className="min-w-0 truncate">
          <span className="font-semibold text-ink">{happening.name}</span> {happening.company}{' '}
          {said(happening)}
        </span>
        <OwnTime at={happening.at} />
      </span>
      {happening.text && <span className="block truncate">{happening.text}</span>}
      {happening.sheet && (
        <span className="code block truncate text-note text-second">{happening.sheet}</span>
      )}
    </>
  )
  if (!happening.mark_id) return <div className="px-3 py-1.5">{words}</div>
  return (
    <button
      type="button"
      className="block w-full px-3 py-1.5 text-left hover:bg-paper"
      onClick={() => {
        if (happening.revision_id === sheet.revision_id) choose(happening.mark_id)
        else
          void navigate({
            to: '/sheet/$revisionId',
            params: { revisionId: happening.revision_id },
            search: { session: sessionId, mark: happening.mark_id, page: happening.page },
          })
      }}
    >
      {words}
    </button>
  )
}
