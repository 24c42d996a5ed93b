import { useMutationState } from '@tanstack/react-query'
import { useMemo, useRef, useState, type RefObject } from 'react'

import type { Schemas } from '../../../api/client'
import { isLost } from '../../../api/fetched'
import { outboxOf, useLeftBehind, useSendingLeft } from '../../../api/outgoing'
import type { Present } from '../../../api/presence'
import { HELD } from '../../../api/waiting'
import type { Affine } from '../../../domain/affine'
import { carried, extent } from '../../../domain/drawing'
import { fullInstant } from '../../../domain/dates'
import { lengthText } from '../../../domain/typedTimes'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Input'
import { Logo } from '../../../ui/Logo'
import { ErrorNote, Loading } from '../../../ui/Notes'
import type { View } from '../../../ui/TileView'
import { Closed, type RoomProps } from '../GuestDocument'
import { GuestPaper, PageTurner } from '../GuestPages'
import { ZONE, type Entered } from '../guestVisit'
import { GuestMarkList } from './GuestMarkList'
import { GuestDrawing } from '../pens/GuestDrawing'
import { GuestPens, useGuestHand, type GuestPen } from '../pens/GuestPens'
import { SayIt } from '../pens/SayIt'
import { useGuestMarks, useGuestPresence, useGuestSession, useRoomLine, type GuestRoom } from './useGuestRoom'

type Sheet = GuestRoom['sheets'][number]

/** A session by a link: its sheets while it is open, the marks of all, and one's own. */
export function GuestSession({ visit, onClosed }: RoomProps) {
  const found = useGuestSession(visit)
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the session" />
  return <Room visit={visit} room={found.data} />
}

function Room({ visit, room }: { visit: Entered; room: GuestRoom }) {
  const [at, setAt] = useState('')
  const [page, setPage] = useState(0)
  const live = useRoomLine(visit, room)
  const sheet = room.sheets.find((each) => each.revision_id === at) ?? room.sheets[0]
  const people = useGuestPresence(visit, sheet?.revision_id ?? '', page, room.state === 'open')
  if (!sheet) return <Shut room={room} />
  const go = (revisionId: string) => {
    setAt(revisionId)
    setPage(0)
  }
  return (
    <main className="flex h-dvh flex-col">
      <Head visit={visit} room={room} live={live} people={people} sheet={sheet} onSheet={go} />
      <OnSheet key={sheet.revision_id} visit={visit} room={room} sheet={sheet} page={page} onPage={setPage} />
    </main>
  )
}

/** Before it opens, and after it has closed. */
function Shut({ room }: { room: GuestRoom }) {
  return (
    <main className="mx-auto max-w-[620px] px-4 py-8 md:p-10">
      <Logo className="mb-4 size-9" />
      <p className="text-second">{room.project}</p>
      <h1 className="mb-2 text-title font-semibold">
        <span className="code">{room.number}</span> {room.name}
      </h1>
      <p role="status" className="text-read font-semibold">
        {room.state === 'closed'
          ? `The session has closed, ${fullInstant(room.closes_at, ZONE)}. Thank you.`
          : `The session opens ${fullInstant(room.opens_at, ZONE)}. This page will show it then.`}
      </p>
      <p className="mt-2 text-second">Its host is {room.host}.</p>
    </main>
  )
}

interface HeadProps {
  visit: Entered
  room: GuestRoom
  live: boolean
  people: readonly Present[]
  sheet: Sheet
  onSheet: (revisionId: string) => void
}

function Head({ visit, room, live, people, sheet, onSheet }: HeadProps) {
  const place = room.sheets.indexOf(sheet)
  const step = (by: number) => {
    const next = room.sheets[place + by]
    if (next) onSheet(next.revision_id)
  }
  const others = people.filter((each) => each.name !== room.me)
  return (
    <header className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b-2 border-plum px-3 py-1.5">
      <Logo className="size-7 shrink-0 max-md:hidden" />
      <div className="min-w-0 flex-1">
        <h1 className="truncate text-read font-semibold">
          <span className="code">{room.number}</span> {room.name}
        </h1>
        <p className="truncate text-note text-second">
          {room.project}. You are {room.me}, {room.company}.{' '}
          {lengthText(Date.parse(room.now), Date.parse(room.closes_at))} left.
          {others.length > 0 && ` Here: ${others.map((each) => each.name).join(', ')}.`}
        </p>
      </div>
      <Line visit={visit} live={live} />
      <span className="flex items-center gap-1">
        <Button small why={place === 0 && 'This is the first sheet.'} onClick={() => step(-1)}>
          Before
        </Button>
        <Choice
          small
          aria-label="Sheet"
          className="max-w-[220px]"
          value={sheet.revision_id}
          onChange={(event) => onSheet(event.target.value)}
        >
          {room.sheets.map((each) => (
            <option key={each.revision_id} value={each.revision_id}>
              {each.number} {each.revision} {each.title}
            </option>
          ))}
        </Choice>
        <Button
          small
          why={place + 1 === room.sheets.length && 'This is the last sheet.'}
          onClick={() => step(1)}
        >
          Next
        </Button>
      </span>
    </header>
  )
}

/** Whether what others do is seen at once, and what of one's own still waits. */
function Line({ visit, live }: { visit: Entered; live: boolean }) {
  const box = outboxOf(visit.guest)
  useSendingLeft(box, forget)
  const left = useLeftBehind(box).length
  const inHand = useMutationState({ filters: HELD, select: () => true }).length
  const waiting = left + inHand
  const words = waiting ? `Waiting for the line: ${waiting} to send` : live ? 'Live' : 'Joining the line …'
  return (
    <span role="status" className={`text-note ${live && !waiting ? 'text-spruce' : 'text-ochre'}`}>
      {words}
    </span>
  )
}

const forget = () => undefined

interface SheetProps {
  visit: Entered
  room: GuestRoom
  sheet: Sheet
  page: number
  onPage: (page: number) => void
}

function OnSheet(props: SheetProps) {
  const { visit, room, sheet, page, onPage } = props
  const view = useRef<View>(null)
  const [chosen, setChosen] = useState('')
  const [drawn, setDrawn] = useState<Schemas['NewMark'] | null>(null)
  const me = useMemo(() => authorOf(room), [room])
  const acts = useGuestMarks(visit, sheet.revision_id, me)
  const waiting = acts.waiting.map((mark) => ({ mark, mine: false }))
  const marks = [...(acts.marks.data ?? []), ...waiting]
  function goTo(mark: Schemas['Mark']) {
    setChosen(mark.id === chosen ? '' : mark.id)
    onPage(mark.page)
    const to = sheet.pages[mark.page]?.to_view
    if (!to) return
    const [left, upper, right, lower] = extent(carried(mark.points, to))
    view.current?.goTo([(left + right) / 2, (upper + lower) / 2])
  }
  return (
    <div className="flex min-h-0 flex-1 max-md:flex-col">
      <Paper
        {...props}
        view={view}
        chosen={chosen}
        marks={marks.map((each) => each.mark)}
        onDrawn={setDrawn}
      />
      <aside
        aria-label="At the side"
        className="w-[320px] shrink-0 overflow-auto border-l border-line text-list max-md:max-h-[34dvh] max-md:w-full max-md:border-t max-md:border-l-0"
      >
        <div className="px-3 pt-2">
          <h2 className="truncate text-read font-semibold" title={sheet.title}>
            {sheet.title}
          </h2>
          <PageTurner count={sheet.pages.length} page={page} onPage={onPage} />
        </div>
        <ErrorNote error={acts.marks.error ?? acts.draw.error ?? acts.remove.error} />
        <GuestMarkList marks={marks} chosen={chosen} onChoose={goTo} acts={acts} allows={room.allows} />
      </aside>
      {drawn && (
        <SayIt
          about="Everybody in the session sees it at once, with your name."
          onClose={() => setDrawn(null)}
          onSay={(text) => {
            acts.draw.mutate([{ ...drawn, text }])
            setDrawn(null)
          }}
        />
      )}
    </div>
  )
}

const authorOf = (room: GuestRoom): Schemas['Author'] => ({
  ...{ id: '', name: room.me, company: room.company, job: '' },
  ...{ way: 'link', taken_in_by: '' },
})

interface PaperProps extends SheetProps {
  view: RefObject<View | null>
  chosen: string
  marks: Schemas['Mark'][]
  onDrawn: (mark: Schemas['NewMark']) => void
}

const UPRIGHT: Affine = [1, 0, 0, 1, 0, 0]

/** The page with the session's marks, and the pens over it. */
function Paper({ visit, room, sheet, page, view, chosen, marks, onDrawn }: PaperProps) {
  const [pen, setPen] = useState<GuestPen | null>(null)
  const shape = sheet.pages[page]
  const toView = shape?.to_view ?? UPRIGHT
  const hand = useGuestHand({
    pen,
    view,
    page,
    toView,
    onDrawn: (mark) => {
      onDrawn(mark)
      setPen(null)
    },
  })
  const paper = { with: room.drawn_with, perMm: shape ? shape.width_pt / shape.width_mm : 1 }
  return (
    <div className="relative min-h-0 min-w-0 flex-1 touch-none" {...hand.pointers}>
      <GuestPaper
        visit={visit}
        address={`/api/guest/session/sheets/${sheet.revision_id}/tiles`}
        pages={sheet.pages}
        page={page}
        drawn={sheet}
        drawing={hand.drawing}
        keep={sheet.revision_id}
        view={view}
      >
        <GuestDrawing {...{ marks, page, toView, chosen, pen }} drawn={paper} rubber={hand.rubber} />
      </GuestPaper>
      {room.allows.includes('mark') && <GuestPens pen={pen} onPen={setPen} />}
    </div>
  )
}
