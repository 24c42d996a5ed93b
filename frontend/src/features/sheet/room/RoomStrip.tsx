import { Link } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'

import type { SessionSheet } from '../../../api/session'
import { counted } from '../../../domain/counted'
import { useNarrow } from '../../../ui/useNarrow'
import { useSheet } from '../sheetContext'
import type { Room } from './useRoom'

/** The session's sheets along the left edge, each with what is open on it and who is there; , and . walk along it. */
export function RoomStrip() {
  const { room, sheet } = useSheet()
  const narrow = useNarrow()
  if (!room || narrow) return null
  return (
    <nav
      aria-label="Sheets of the session"
      className="flex w-[92px] shrink-0 flex-col overflow-y-auto border-r border-line bg-surface"
    >
      {room.session.sheets
        .filter((each) => !each.out_why)
        .map((each) => (
          <Leaf
            key={each.revision_id}
            leaf={each}
            here={each.revision_id === sheet.revision_id}
            room={room}
          />
        ))}
    </nav>
  )
}

function Leaf({ leaf, here, room }: { leaf: SessionSheet; here: boolean; room: Room }) {
  const place = useRef<HTMLAnchorElement>(null)
  useEffect(() => {
    if (here) place.current?.scrollIntoView({ block: 'nearest' })
  }, [here])
  const there = room.people.filter((each) => each.revision === leaf.revision_id)
  const short = leaf.number.split('-').slice(-2).join('-')
  return (
    <Link
      ref={place}
      to="/sheet/$revisionId"
      params={{ revisionId: leaf.revision_id }}
      search={{ session: room.session.line.id }}
      aria-current={here ? 'page' : undefined}
      title={`${leaf.number} ${leaf.revision}, ${leaf.title}`}
      className="block border-b border-line p-1.5 text-note aria-[current=page]:bg-plum-tint"
    >
      <img
        src={`/api/sheets/${leaf.revision_id}/thumbnail`}
        alt=""
        width={90}
        height={64}
        loading="lazy"
        className="h-[64px] w-full border border-line bg-white object-contain"
      />
      <span className="code mt-0.5 block truncate">
        {short} {leaf.revision}
      </span>
      <span className="flex flex-wrap justify-between gap-x-1 text-second">
        <span className={leaf.open_marks ? 'font-semibold text-ochre' : ''}>
          {leaf.open_marks ? `${leaf.open_marks} open` : leaf.marks ? 'all settled' : ''}
        </span>
        <span aria-label={there.length ? `${counted(there.length, 'person', 'people')} here` : undefined}>
          {there.length > 0 && `${there.length} here`}
        </span>
      </span>
    </Link>
  )
}
