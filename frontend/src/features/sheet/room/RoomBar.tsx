import { Link, useNavigate } from '@tanstack/react-router'
import { Frame, LogOut, Megaphone } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useEffect, useState } from 'react'

import { useSeat } from '../../../api/me'
import type { Present } from '../../../api/presence'
import { boxOnPage } from '../../../domain/pageBox'
import { lengthText } from '../../../domain/typedTimes'
import { Button, buttonLook } from '../../../ui/Button'
import { Choice } from '../../../ui/Input'
import { OwnTime } from '../../../ui/Standing'
import { useNarrow } from '../../../ui/useNarrow'
import { useSheet } from '../sheetContext'
import { setRoom } from './roomState'
import type { Room } from './useRoom'

const MINUTE_MS = 60_000
const SOON_MINUTES = 10

/** Minutes that are left, as the demo's clock and the server's go. */
function useLeft(room: Room): number {
  const { me } = useSeat()
  const [since] = useState(() => Date.now())
  const [now, setNow] = useState(since)
  useEffect(() => {
    const tick = setInterval(() => setNow(Date.now()), MINUTE_MS / 4)
    return () => clearInterval(tick)
  }, [])
  const there = Date.parse(me.now) + (now - since)
  return Math.floor((Date.parse(room.session.line.closes_at) - there) / MINUTE_MS)
}

/** The frame's upper edge: which session, how long it goes on, who is here, and what may be done with it. */
export function RoomBar() {
  const { room, callAll } = useSheet()
  const narrow = useNarrow()
  if (!room) return null
  const { line } = room.session
  return (
    <section
      aria-label={`Session ${line.number}`}
      className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b-2 border-plum bg-surface px-3 py-1 text-list"
    >
      <Link
        to="/sessions/$sessionId"
        params={{ sessionId: line.id }}
        className="inline-flex min-h-6 min-w-0 items-center gap-1.5"
      >
        <span className="code text-plum underline">{line.number}</span>
        <span className="max-w-[260px] truncate font-semibold max-md:max-w-[130px]" title={line.name}>
          {line.name}
        </span>
      </Link>
      {narrow && <SheetsOfRoom room={room} />}
      <State room={room} />
      {room.open && <PeopleHere room={room} />}
      <span className="ml-auto flex items-center gap-1.5">
        {room.open && <Looks room={room} />}
        {room.session.may.includes('close') && (
          <Button small title="Shows everybody who is here the way to what you see" onClick={callAll}>
            <Megaphone size={14} aria-hidden /> <span className="max-lg:sr-only">Call all here</span>
          </Button>
        )}
        <Link to="/sessions/$sessionId" params={{ sessionId: line.id }} className={buttonLook('quiet', true)}>
          <LogOut size={14} aria-hidden /> <span className="max-md:sr-only">Leave</span>
        </Link>
      </span>
    </section>
  )
}

/** Frames for all, for the one who was chosen, or for none. */
function Looks({ room }: { room: Room }) {
  const one = room.people.find((each) => each.who === room.framed)
  return (
    <Button
      small
      aria-pressed={room.frames}
      title="Where others look (o)"
      onClick={() => setRoom({ frames: !room.frames, framed: '' })}
      className="aria-pressed:bg-plum-tint aria-pressed:text-plum"
    >
      <Frame size={14} aria-hidden />
      <span className="max-lg:sr-only">{one ? `Where ${one.name} looks` : 'Where others look'}</span>
    </Button>
  )
}

/** On a narrow screen the strip of sheets is a list to choose from. */
function SheetsOfRoom({ room }: { room: Room }) {
  const { sheet } = useSheet()
  const navigate = useNavigate()
  const sheets = room.session.sheets.filter((each) => !each.out_why)
  return (
    <Choice
      small
      aria-label="Sheets of the session"
      className="order-last min-w-0 basis-full"
      value={sheet.revision_id}
      onChange={(event) =>
        void navigate({
          to: '/sheet/$revisionId',
          params: { revisionId: event.target.value },
          search: { session: room.session.line.id },
        })
      }
    >
      {!room.has(sheet.revision_id) && <option value={sheet.revision_id}>Another sheet</option>}
      {sheets.map((each, place) => (
        <option key={each.revision_id} value={each.revision_id}>
          {place + 1} of {sheets.length}: {each.number} {each.revision}
          {each.open_marks > 0 && `, ${each.open_marks} open`}
        </option>
      ))}
    </Choice>
  )
}

function State({ room }: { room: Room }) {
  const left = useLeft(room)
  const { line, level_words, level } = room.session
  if (line.state !== 'open')
    return (
      <span role="status" className="text-second">
        {line.state === 'closed' ? 'closed' : 'to come'}, <OwnTime at={line.closed_at ?? line.opens_at} />
      </span>
    )
  return (
    <span role="status" className={left <= SOON_MINUTES ? 'font-semibold text-ochre' : 'text-second'}>
      {left > 0 ? `${lengthText(0, left * MINUTE_MS)} left` : 'closing'}
      {level !== 'mark' && <span className="max-lg:hidden">, you may {level_words}</span>}
    </span>
  )
}

const initialsOf = (name: string) =>
  name
    .split(/\s+/)
    .slice(0, 3)
    .map((part) => part[0] ?? '')
    .join('')
    .toUpperCase()

/** Who is here, as initials in squares with the company under them. */
function PeopleHere({ room }: { room: Room }) {
  const { me } = useSeat()
  const others = room.people.filter((each) => each.who !== me.person.id)
  return (
    <ul aria-label={`${others.length + 1} here`} className="flex max-w-full flex-wrap items-center gap-1">
      {others.length === 0 && <li className="text-second">Nobody else is here.</li>}
      {others.map((each) => (
        <li key={each.who}>
          <PersonHere person={each} room={room} />
        </li>
      ))}
    </ul>
  )
}

const ITEM = 'flex min-h-8 cursor-pointer items-center px-3 outline-none data-[highlighted]:bg-plum-tint'

function PersonHere({ person, room }: { person: Present; room: Room }) {
  const { goTo, sheet } = useSheet()
  const following = room.following === person.who
  const at = room.session.sheets.find((each) => each.revision_id === person.revision)
  const here = person.revision === sheet.revision_id
  const where = here ? 'on this sheet' : `on ${at?.number ?? 'another sheet'}`
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`${initialsOf(person.name)} ${person.company}: ${person.name}, ${where}${following ? ', you follow them' : ''}`}
        title={`${person.name}, ${person.company}, ${where}`}
        className={`flex min-h-8 min-w-8 flex-col items-center border px-1 leading-none ${following ? 'border-plum bg-plum text-on-plum' : here ? 'border-second bg-paper' : 'border-line'}`}
      >
        <span className="pt-0.5 text-note font-semibold">{initialsOf(person.name)}</span>{' '}
        <span className="code text-fine">{person.guest ? 'guest' : person.company}</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          className="z-30 min-w-[220px] border border-second bg-surface py-1 text-list"
        >
          <DropdownMenu.Label className="px-3 py-1 text-second">
            {person.name} ({person.company}), {where}
          </DropdownMenu.Label>
          <DropdownMenu.Item className={ITEM} onSelect={() => goTo(person)}>
            Go to where they look
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() => setRoom({ following: following ? '' : person.who })}
          >
            {following ? 'Stop following them' : 'Follow them'}
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() => setRoom({ frames: true, framed: room.framed === person.who ? '' : person.who })}
          >
            {room.framed === person.who ? 'Show where all look' : 'Show only where they look'}
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

/** What asks something of one in the room: a call, or that one follows somebody. */
export function RoomNotes() {
  const { room, followed, goTo, stopFollowing } = useSheet()
  const { me } = useSeat()
  if (!room?.open) return null
  const caller = room.people.find(
    (each) => each.call && each.who !== me.person.id && each.call.called_at > room.answered,
  )
  return (
    <div className="pointer-events-none absolute top-3 right-3 left-[350px] z-10 flex flex-col items-center gap-1 max-md:left-3">
      {caller?.call && (
        <div
          role="alert"
          data-panel
          className="pointer-events-auto flex flex-wrap items-center gap-2 border-2 border-plum bg-surface px-3 py-1.5 text-list"
        >
          {caller.name} calls you to what they see.
          <Button
            small
            look="act"
            onClick={() => {
              setRoom({ answered: caller.call?.called_at ?? '' })
              if (caller.call) goTo(caller.call)
            }}
          >
            Go there
          </Button>
          <Button small onClick={() => setRoom({ answered: caller.call?.called_at ?? '' })}>
            Stay here
          </Button>
        </div>
      )}
      {followed && (
        <div
          role="status"
          data-panel
          className="pointer-events-auto flex items-center gap-2 border border-plum bg-plum-tint px-3 py-1 text-list"
        >
          You follow {followed.name} until you move yourself.
          <Button small onClick={stopFollowing}>
            Stop
          </Button>
        </div>
      )}
    </div>
  )
}

/** Where others look on this page: a hairline frame with initials at its corner. */
export function Frames() {
  const { room, sheet, page, toView } = useSheet()
  const { me } = useSeat()
  if (!room?.open || !room.frames) return null
  // Whoever was chosen may have left: then all are shown again.
  const one = room.people.some((each) => each.who === room.framed) ? room.framed : ''
  return room.people
    .filter((each) => each.who !== me.person.id && each.revision === sheet.revision_id && each.page === page)
    .filter((each) => !one || each.who === one)
    .map((each) => {
      if (!each.box) return null
      const [left, upper, right, lower] = boxOnPage(each.box, toView)
      return (
        <g key={each.who} data-testid="looks" pointerEvents="none">
          <rect
            x={left}
            y={upper}
            width={right - left}
            height={lower - upper}
            fill="none"
            stroke="#41607F"
            strokeWidth={room.following === each.who ? 2 : 1}
            vectorEffect="non-scaling-stroke"
          />
          <g
            className="pin-mark"
            style={{ '--x': `${left}px`, '--y': `${upper}px` } as Record<string, string>}
          >
            <rect width={30} height={16} fill="#41607F" />
            <text x={15} y={12} textAnchor="middle" fontSize={11} fontWeight={600} fill="#fff">
              {initialsOf(each.name)}
            </text>
          </g>
        </g>
      )
    })
}
