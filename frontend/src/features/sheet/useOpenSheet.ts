import { useSearch } from '@tanstack/react-router'
import { useMemo, useRef, useState, type RefObject } from 'react'

import type { Schemas } from '../../api/client'
import { inverse, type Affine, type Point } from '../../domain/affine'
import { carried, centre, type Extent } from '../../domain/drawing'
import { measuredWords } from '../../domain/measure'
import { boxOnPage, surroundings } from '../../domain/pageBox'
import { useLayers } from './LayersPanel'
import { fits, NO_FILTER } from './marks/markFilter'
import type { Drawn } from '../../ui/MarkShapes'
import { useActs } from './marks/useActs'
import { useHand, type Hand } from './marks/useHand'
import { useMarks, type DrawsTo, type Mark } from './marks/useMarks'
import { usePens } from './marks/usePens'
import { useReaders } from './marks/useReaders'
import { scalesOf, useScales, type Scales } from './measure/useScales'
import { useSnap } from './measure/useSnap'
import type { Part, View } from '../../ui/TileView'
import { useBeHere } from './room/useBeHere'
import { useFollowing } from './room/useFollowing'
import { useRoom, type Room } from './room/useRoom'
import type { Hit } from './useSheetWords'
import { useWordsOnly } from './review/part'
import { useWays } from './useWays'
import { isWaiting } from '../../api/waitingMarks'

type Sheet = Schemas['Sheet']
export type BesideWhat = 'find' | 'measure' | 'layers' | null

const UPRIGHT: Affine = [1, 0, 0, 1, 0, 0]
const NO_MARKS: Mark[] = []

/** All that is known and done about a sheet that is open: its page, its marks, the hand on it, and what stands around. */
export function useOpenSheet(seen: Sheet) {
  const { room, sheet } = useRoomOf(seen)
  const view = useRef<View>(null)
  const asked = useSearch({ from: '/frame/sheet/$revisionId' })
  const [page, setPage] = useState(Math.min(asked.page ?? 0, Math.max(0, sheet.pages.length - 1)))
  const paper = usePaper(sheet, page)
  const panes = usePanes()
  const marks = useShownMarks(sheet, page, room)
  const acts = useActs(marks.service)
  const scales = useScales(sheet.revision_id)
  const snap = useSnap(sheet.revision_id, page, paper.toView, view)
  const [peeked, peek] = useState('')
  const wordsOnly = useWordsOnly(sheet.revision_id, !sheet.let_in)
  const meeting = useMeeting(room, sheet, { page, setPage, toView: paper.toView, view })
  const hand = useHand({
    revisionId: sheet.revision_id,
    page,
    marks: marks.here,
    toView: paper.toView,
    perMm: paper.drawn.perMm,
    view,
    acts,
    snap,
    changing: marks.service.change.isPending,
    first: asked.mark,
    onDrawn: (drawn) => {
      if (hasRoom()) panes.setList(true)
      marks.mustShow(drawn)
    },
  })
  return {
    sheet,
    ...meeting,
    /** The review step that takes words of me here, and no marks. */
    wordsOnly,
    page,
    setPage,
    view,
    ...paper,
    panes,
    marks,
    acts,
    hand,
    /** The mark that is pointed at in the list, or come to by the keyboard. */
    peeked,
    peek,
    snap,
    scales,
    pens: usePens(sheet.project_id),
    ways: useWays(sheet, page, setPage),
    sought: useSought(sheet, page, setPage, view),
    /** What is being measured, in words. */
    valueNow: valueOf(hand, scales, page, paper),
    /** Chooses a mark of any page and goes to it; the one that is chosen already is left. */
    choose: (id: string) => {
      if (hand.chosen.length === 1 && hand.chosen[0] === id) return hand.choose([])
      hand.choose([id])
      const mark = marks.all.find((each) => each.id === id)
      if (!mark) return
      setPage(mark.page)
      view.current?.goTo(centre(carried(mark.points, matrixOf(sheet, mark.page))))
    },
  }
}

export type OpenSheet = ReturnType<typeof useOpenSheet>

function matrixOf(sheet: Sheet, page: number): Affine {
  return (sheet.pages[page]?.to_view as Affine | undefined) ?? UPRIGHT
}

/** How the page lies: its matrix to the view, how marks are drawn on it, and which layers are off. */
function usePaper(sheet: Sheet, page: number) {
  const layers = useLayers(sheet.revision_id)
  const [off, setOff] = useState<ReadonlySet<number> | null>(null)
  const toView = matrixOf(sheet, page)
  const drawn = useMemo<Drawn>(() => {
    const shape = sheet.pages[page]
    return { with: sheet.drawn_with, perMm: shape ? shape.width_pt / shape.width_mm : 72 / 25.4 }
  }, [sheet, page])
  return { toView, drawn, inks: sheet.drawn_with.inks, layers, off, setOff }
}

/** Whether sheet and list of marks have room beside each other; where not, the list lies over the sheet when it is asked for. */
const hasRoom = () => window.innerWidth >= 768

/** What is open around the sheet: the marks at the right, the roll of pens, and one thing under the title block. */
function usePanes() {
  const [list, setList] = useState(hasRoom)
  const [roll, setRoll] = useState(false)
  const [beside, setBeside] = useState<BesideWhat>(null)
  const flip = (what: BesideWhat) => setBeside(beside === what ? null : what)
  return { list, setList, roll, setRoll, beside, setBeside, flip }
}

/** The marks of the sheet: all, those that the filter leaves, and those of them on this page. */
function useShownMarks(sheet: Sheet, page: number, room: Room | null) {
  const readers = useReaders(sheet.revision_id, sheet.may_mark)
  const service = useMarks(sheet.revision_id, drawsTo(room, readers))
  const [filter, setFilter] = useState(NO_FILTER)
  const all = service.all ?? NO_MARKS
  const shown = useMemo(() => all.filter((mark) => fits(mark, filter)), [all, filter])
  const here = useMemo(() => shown.filter((mark) => mark.page === page), [shown, page])
  return {
    service,
    filter,
    setFilter,
    all,
    shown,
    here,
    /** What was drawn must not vanish behind a filter that was set before. */
    mustShow: (drawn: Mark[]) => {
      if (!drawn.every((mark) => fits(mark, filter))) setFilter(NO_FILTER)
    },
    /** One's own pencil that can be inked: those that wait for the line cannot yet. */
    pencil: all.filter((mark) => !mark.inked_at && !isWaiting(mark)),
    readers,
    ink: (those: readonly Mark[]) => {
      if (those.length && readers.known)
        service.ink.mutate({ ids: those.map((mark) => mark.id), readers: readers.readers })
    },
  }
}

/** In a room one marks as one is invited to, whatever one may outside of it. */
function useRoomOf(seen: Sheet): { room: Room | null; sheet: Sheet } {
  const room = useRoom(seen)
  const mayMark = room?.open ? room.mayMark : seen.may_mark
  const sheet = useMemo(() => ({ ...seen, may_mark: mayMark }), [seen, mayMark])
  return { room, sheet }
}

interface Looks {
  page: number
  setPage: (page: number) => void
  toView: Affine
  view: RefObject<View | null>
}

/** What one does together with others on a sheet: being there, following, calling. */
function useMeeting(room: Room | null, sheet: Sheet, looks: Looks) {
  const { page, toView } = looks
  const following = useFollowing(room, { revisionId: sheet.revision_id, ...looks })
  const here = useBeHere(room?.open ? room.session.line.id : '', sheet.revision_id, page)
  return {
    /** The session whose room this is. */
    room,
    maySay: room?.open ? room.maySay : sheet.may_mark,
    followed: following.followed,
    goTo: following.goTo,
    stopFollowing: following.stop,
    callAll: here.callAll,
    /** The view shows another part of the page. */
    moved: (part: Part) => here.moved(boxInPoints(part, sheet, page, toView)),
  }
}

/** Where what is drawn goes: into the session, in ink where its readers are known. */
function drawsTo(room: Room | null, readers: ReturnType<typeof useReaders>): DrawsTo | null {
  if (!room?.open) return null
  return { sessionId: room.session.line.id, ink: room.ink && readers.known, readers: readers.readers }
}

/** What a view shows of a page, in its points. A view's own unit is the width of the page. */
function boxInPoints(part: Part, sheet: Sheet, page: number, toView: Affine): Extent {
  const width = sheet.pages[page]?.width_pt ?? 1
  const corners: Point[] = [
    [part.x * width, part.y * width],
    [(part.x + part.width) * width, (part.y + part.height) * width],
  ]
  const [[a, b] = [0, 0], [c, d] = [0, 0]] = carried(corners, inverse(toView))
  return [Math.min(a, c), Math.min(b, d), Math.max(a, c), Math.max(b, d)]
}

function valueOf(
  hand: Hand,
  scales: Scales,
  page: number,
  { toView, drawn }: { toView: Affine; drawn: Drawn },
) {
  if (!hand.pen || !hand.drawing) return ''
  const { scales: here, units } = scalesOf(scales, page)
  const points = carried(hand.drawing, inverse(toView))
  return measuredWords(hand.pen.kind, points, here, 1 / drawn.perMm, units)
}

/** The place that was searched for, from the address or on the sheet. */
function useSought(sheet: Sheet, page: number, onPage: (page: number) => void, view: RefObject<View | null>) {
  const asked = useSearch({ from: '/frame/sheet/$revisionId' })
  const [hit, setHit] = useState<Hit | null>(null)
  const sought = hit ?? (asked.at ? { page: asked.page ?? 0, box: asked.at } : null)
  return {
    found: sought && page === sought.page ? boxOnPage(sought.box, matrixOf(sheet, page)) : null,
    forget: () => setHit(null),
    show: (next: Hit) => {
      setHit(next)
      onPage(next.page)
      view.current?.show(surroundings(boxOnPage(next.box, matrixOf(sheet, next.page))))
    },
  }
}
