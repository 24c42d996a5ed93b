import { useEffect, useMemo, useRef, useState, type PointerEvent, type RefObject } from 'react'

import { inverse, type Affine, type Point } from '../../../domain/affine'
import {
  add,
  around,
  carried,
  caught,
  drag,
  finish,
  IDLE,
  PEN,
  press,
  release,
  type Gesture,
} from '../../../domain/drawing'
import { handlesOf, reshaped } from '../../../domain/shapes'
import { clipboard } from './clipboard'
import type { View } from '../SheetView'
import type { Snap } from '../measure/useSnap'
import type { Acts } from './useActs'
import { pairs, type Mark, type NewMark } from './useMarks'
import { lookOf, type Pen } from './usePens'

const STEP_PT = (1 * 72) / 25.4
/** A press that moves less than this, in pixels of the screen, was a click. */
const CLICK_PX = 4
const STAYS_UP: ReadonlySet<Pen['kind']> = new Set([
  'symbol',
  'highlight',
  'freehand',
  'distance',
  'path',
  'area',
  'perimeter',
  'angle',
])

/** What is done with places that were shown, in user space; `aimPt` is a pixel of the screen there. */
type Aimed = (points: [number, number][], aimPt: number) => void

interface Props {
  revisionId: string
  page: number
  /** The marks of this page, and the view's matrix with points to a millimetre of paper. */
  marks: Mark[]
  toView: Affine
  perMm: number
  view: RefObject<View | null>
  acts: Acts
  snap: Snap
  changing: boolean
  /** A mark that is asked for in the address. */
  first: string | undefined
  onDrawn: (drawn: Mark[]) => void
}

/** The hand on the sheet: pen, gesture, what is chosen, and what mouse, pen, touch and keys do with these. */
export function useHand({
  revisionId,
  page,
  marks,
  toView,
  perMm,
  view,
  acts,
  snap,
  changing,
  first,
  onDrawn,
}: Props) {
  const [gesture, setGesture] = useState<Gesture>(IDLE)
  const [pen, setPen] = useState<Pen | null>(null)
  const aimed = useRef<Aimed | null>(null)
  const [chosen, setChosen] = useState<readonly string[]>(first ? [first] : [])
  const [handle, setHandle] = useState<number | null>(null)
  const [fresh, setFresh] = useState('')
  const pressed = useRef<{ x: number; y: number; id: string | null }>({ x: 0, y: 0, id: null })
  const waiting = useRef<Point>([0, 0])
  const toPage = useMemo(() => inverse(toView), [toView])

  const isChosen = new Set(chosen)
  const free = marks.filter((mark) => isChosen.has(mark.id) && mark.may_change && !mark.locked)
  const single = chosen.length === 1 ? marks.find((mark) => mark.id === chosen[0]) : undefined
  const shapeable = single && free.includes(single) ? single : undefined
  const seen = (mark: Mark) => carried(mark.points, toView)
  const onPage = (points: readonly Point[]) => pairs(carried(points, toPage))

  function choose(ids: readonly string[]) {
    setChosen(ids)
    setHandle(null)
    setFresh('')
  }

  /** Takes a pen; with `then` it shows places instead of drawing a mark. */
  function take(next: Pen | null, then?: Aimed) {
    aimed.current = then ?? null
    setPen(next)
    setGesture(next ? PEN : IDLE)
    if (!next) snap.forget()
  }

  function keep(points: readonly Point[]) {
    if (!pen) return
    const aimPt = snap.exact(points) ? 0 : (view.current?.pixel() ?? 0)
    if (aimed.current) {
      const then = aimed.current
      take(null)
      return then(onPage(points), aimPt)
    }
    const mark: NewMark = {
      page,
      kind: pen.kind,
      points: onPage(points),
      look: lookOf(pen),
      text: pen.text ?? '',
      label: pen.label ?? '',
      discipline: pen.discipline ?? '',
      rings: [],
      aim_pt: aimPt,
    }
    acts.draw([mark], (drawn) => {
      choose(drawn.map((each) => each.id))
      if (drawn[0]) setFresh(drawn[0].id)
      if (!STAYS_UP.has(pen.kind)) take(null)
      onDrawn(drawn)
    })
  }

  /** Where the hand has the points of a mark for now. */
  function heldAt(mark: Mark): Point[] {
    if (gesture.kind === 'moving') {
      const by: Point = [gesture.to[0] - gesture.from[0], gesture.to[1] - gesture.from[1]]
      return seen(mark).map((point) => add(point, by))
    }
    return gesture.kind === 'shaping'
      ? reshaped(mark.kind, seen(mark), gesture.handle, gesture.to)
      : seen(mark)
  }

  const held = new Map<string, Point[]>()
  if (gesture.kind === 'moving') for (const mark of free) held.set(mark.id, heldAt(mark))
  if (gesture.kind === 'shaping' && shapeable) held.set(shapeable.id, heldAt(shapeable))

  const at = (event: PointerEvent): Point => {
    const place = view.current?.place(event.clientX, event.clientY) ?? [0, 0]
    return pen ? snap.snap(place, pen.kind, event.altKey) : place
  }

  function startIdle(event: PointerEvent) {
    const target = event.target as Element
    const grip = target.closest('[data-handle]')
    const id = target.closest('[data-mark]')?.getAttribute('data-mark') ?? null
    pressed.current = { x: event.clientX, y: event.clientY, id }
    if (grip && shapeable) {
      hold(event)
      setGesture({
        kind: 'shaping',
        handle: Number(grip.getAttribute('data-handle')),
        from: at(event),
        to: at(event),
      })
    } else if (id) {
      hold(event)
      if (!isChosen.has(id)) choose(event.shiftKey ? [...chosen, id] : [id])
      else if (event.shiftKey) choose(chosen.filter((each) => each !== id))
      setGesture({ kind: 'moving', from: at(event), to: at(event) })
    } else if (event.shiftKey) {
      hold(event)
      setGesture({ kind: 'lasso', from: at(event), to: at(event) })
    }
  }

  function down(event: PointerEvent) {
    if (event.button !== 0 || (event.target as Element).closest('button, input, select, [data-panel]')) return
    if (gesture.kind === 'idle') return startIdle(event)
    if (!pen) return
    hold(event)
    pressed.current = { x: event.clientX, y: event.clientY, id: null }
    setGesture(press(gesture, pen.kind, at(event)))
  }

  function move(event: PointerEvent) {
    if (gesture.kind === 'idle') return
    // Also before the first press: what it would catch is shown.
    const to = at(event)
    if (gesture.kind !== 'pen') setGesture(drag(gesture, to))
  }

  function up(event: PointerEvent) {
    if ((event.target as Element).closest('button, [data-panel]') && gesture.kind === 'pen') return
    const clicked =
      Math.hypot(event.clientX - pressed.current.x, event.clientY - pressed.current.y) < CLICK_PX
    if (gesture.kind === 'lasso') {
      choose(marks.filter((mark) => caught(seen(mark), gesture.from, gesture.to)).map((mark) => mark.id))
      setGesture(IDLE)
    } else if (gesture.kind === 'moving' || gesture.kind === 'shaping') {
      const touched = gesture.kind === 'moving' ? free : shapeable ? [shapeable] : []
      // Moved as a whole it measures what it did; a place set anew is as exact as the view.
      const aim = gesture.kind === 'shaping' ? { aim_pt: view.current?.pixel() ?? 0 } : {}
      if (!clicked && touched.length)
        acts.change(touched.map((mark) => ({ mark, to: (now) => ({ points: onPage(heldAt(now)), ...aim }) })))
      else if (clicked && pressed.current.id && !event.shiftKey) choose([pressed.current.id])
      setGesture(IDLE)
    } else if (pen && gesture.kind !== 'idle') {
      const { gesture: next, points } = release(gesture, pen.kind, at(event), perMm, clicked)
      setGesture(next)
      if (points) keep(points)
    }
  }

  /** Enter: ends a row of points, or draws a mark of usual size in the middle of what is seen. */
  function enter() {
    if (!pen) return
    const { gesture: next, points } = finish(gesture, pen.kind)
    if (gesture.kind === 'placing') setGesture(next)
    if (gesture.kind === 'pen') keep(around(pen.kind, view.current?.middle() ?? [0, 0], perMm))
    else if (points) keep(points)
  }

  function nudge(x: number, y: number) {
    if (changing) {
      waiting.current = add(waiting.current, [x, y])
      return
    }
    const by: Point = [x * STEP_PT, y * STEP_PT]
    if (handle !== null && shapeable) {
      const moved = (now: Mark) => {
        const from = handlesOf(now.kind, seen(now))[handle] ?? [0, 0]
        return onPage(reshaped(now.kind, seen(now), handle, add(from, by)))
      }
      const aim_pt = view.current?.pixel() ?? 0
      acts.change([{ mark: shapeable, to: (now) => ({ points: moved(now), aim_pt }) }])
    } else if (free.length) {
      const moved = (now: Mark) => onPage(seen(now).map((point) => add(point, by)))
      acts.change(free.map((mark) => ({ mark, to: (now) => ({ points: moved(now) }) })))
    }
  }

  // Keys pressed while a change is on its way are not lost: the mark goes their whole way afterwards.
  useEffect(() => {
    const [x, y] = waiting.current
    if (changing || (x === 0 && y === 0)) return
    waiting.current = [0, 0]
    nudge(x, y)
  })

  function paste() {
    const from = clipboard.from === `${revisionId}/${page}` ? 5 * perMm : 0
    const news = clipboard.marks.map((mark) => ({
      ...mark,
      page,
      points: onPage(mark.points.map((point) => add(point, [from, from]))),
    }))
    if (!news.length) return
    acts.draw(news, (drawn) => {
      choose(drawn.map((mark) => mark.id))
      onDrawn(drawn)
    })
  }

  return {
    gesture,
    pen,
    take,
    chosen,
    choose,
    /** The mark just drawn, whose text is typed next. */
    fresh,
    settle: () => setFresh(''),
    held,
    handle,
    shapeable: shapeable ?? null,
    single: single ?? null,
    shapeablePoints: shapeable ? (held.get(shapeable.id) ?? seen(shapeable)) : [],
    /** The points of what is being drawn. */
    drawing: pen ? drawingPoints(gesture, pen.kind, perMm) : null,
    pointers: {
      onPointerDownCapture: (event: PointerEvent) => {
        down(event)
        // The sheet does not move along with what the hand does on it.
        if (event.shiftKey || gesture.kind !== 'idle') event.stopPropagation()
      },
      onPointerMove: move,
      onPointerUp: up,
      onPointerCancel: () => setGesture(pen ? PEN : IDLE),
    },
    enter,
    nudge,
    copy: () => {
      const copied = marks.filter((mark) => isChosen.has(mark.id))
      if (!copied.length) return
      clipboard.from = `${revisionId}/${page}`
      clipboard.marks = copied.map((mark) => ({
        kind: mark.kind,
        points: seen(mark),
        look: mark.look,
        text: mark.text,
        label: mark.label,
        discipline: mark.discipline,
        rings: mark.rings,
        aim_pt: 0,
      }))
    },
    paste,
    nextHandle: () => {
      const count = shapeable ? handlesOf(shapeable.kind, seen(shapeable)).length : 0
      if (count) setHandle(((handle ?? -1) + 1) % count)
    },
    back: () => {
      if (gesture.kind === 'placing') setGesture({ ...gesture, points: gesture.points.slice(0, -1) })
    },
    remove: () => {
      setFresh('')
      if (free.length) acts.remove(free, () => choose([]))
    },
    escape: () => {
      if (gesture.kind === 'placing') setGesture(PEN)
      else if (pen) take(null)
      else if (handle !== null) setHandle(null)
      else choose([])
    },
  }
}

export type Hand = ReturnType<typeof useHand>

function hold(event: PointerEvent) {
  event.currentTarget.setPointerCapture(event.pointerId)
}

/** What a gesture looks like while it lasts: as if the hand let go now. */
function drawingPoints(gesture: Gesture, pen: Pen['kind'], perMm: number): readonly Point[] | null {
  if (gesture.kind === 'stroking') return gesture.points
  if (gesture.kind === 'placing') return pen === 'count' ? gesture.points : [...gesture.points, gesture.to]
  if (gesture.kind === 'dragging') return release(gesture, pen, gesture.to, perMm).points
  return null
}
