import { useEffect, useMemo, useRef, useState, type PointerEvent, type RefObject } from 'react'

import { inverse, type Affine, type Point } from '../../../domain/affine'
import { add, carried } from '../../../domain/drawing'
import {
  drawingOf,
  handAtRest,
  handStep,
  heldOf,
  shapeableOf,
  type HandEffect,
  type HandInput,
  type HandState,
  type Reach,
  type World,
} from '../../../domain/hand'
import { handlesOf, reshaped } from '../../../domain/shapes'
import { clipboard } from './clipboard'
import type { View } from '../SheetView'
import type { Snap } from '../measure/useSnap'
import type { Acts } from './useActs'
import { pairs, type Change, type Mark, type NewMark } from './useMarks'
import { lookOf, type Pen } from './usePens'

const STEP_PT = (1 * 72) / 25.4

/** What is done with places that were shown, in user space; `aimPt` is a pixel of the screen there. */
type Aimed = (points: [number, number][], aimPt: number) => void

interface Props {
  revisionId: string
  page: number
  /** The marks of this page, and the view's matrix with points to a millimetre of paper. */
  marks: readonly Mark[]
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

/** The hand on the sheet: what mouse, pen, touch and keys do goes through the machine in `domain/hand`. */
export function useHand(props: Props) {
  const { marks, toView, perMm, view, acts, snap, changing, first } = props
  const [state, setState] = useState<HandState<Pen>>(() => handAtRest(first ? [first] : []))
  /** The newest, also between two drawings of the screen. */
  const now = useRef(state)
  const aimed = useRef<Aimed | null>(null)
  const world = useMemo<World>(
    () => ({
      perMm,
      marks: marks.map((mark) => ({
        id: mark.id,
        kind: mark.kind,
        points: carried(mark.points, toView),
        free: mark.may_change && !mark.locked,
      })),
    }),
    [marks, toView, perMm],
  )
  const run = useEffects(props, aimed, send)

  function send(input: HandInput<Pen>) {
    const [next, effects] = handStep(now.current, input, world)
    now.current = next
    setState(next)
    effects.forEach(run)
  }

  const nudge = useNudges(changing, (by) => send({ kind: 'nudged', by }))
  const shapeable = shapeableOf(state, world)
  const held = heldOf(state, world)
  return {
    ...state,
    held,
    single: state.chosen.length === 1 ? (marks.find((mark) => mark.id === state.chosen[0]) ?? null) : null,
    shapeable,
    shapeablePoints: shapeable ? (held.get(shapeable.id) ?? shapeable.points) : [],
    /** The points of what is being drawn. */
    drawing: drawingOf(state, perMm),
    pointers: usePointers(now, view, snap, send),
    /** Takes a pen; with `then` it shows places instead of drawing a mark. */
    take: (pen: Pen | null, then?: Aimed) => {
      aimed.current = then ?? null
      send({ kind: 'took', pen, aimed: !!then })
    },
    choose: (ids: readonly string[]) => send({ kind: 'chose', ids }),
    settle: () => send({ kind: 'settled' }),
    enter: () => send({ kind: 'entered', middle: view.current?.middle() ?? [0, 0] }),
    nextHandle: () => send({ kind: 'next handle' }),
    back: () => send({ kind: 'took back' }),
    remove: () => send({ kind: 'removed' }),
    escape: () => send({ kind: 'escaped' }),
    nudge,
    copy: () => copy(props, state.chosen),
    paste: () => {
      const news = pasted(props)
      if (!news.length) return
      acts.draw(news, (drawn) => {
        send({ kind: 'drawn', ids: drawn.map((mark) => mark.id), by: null })
        props.onDrawn(drawn)
      })
    },
  }
}

export type Hand = ReturnType<typeof useHand>

/** Does what the machine asks for. */
function useEffects(
  { page, marks, toView, view, acts, snap, onDrawn }: Props,
  aimed: RefObject<Aimed | null>,
  send: (input: HandInput<Pen>) => void,
) {
  const toPage = useMemo(() => inverse(toView), [toView])
  const onPage = (points: readonly Point[]) => pairs(carried(points, toPage))
  const seen = (mark: Mark) => carried(mark.points, toView)
  const aimOf = (points: readonly Point[]) => (snap.exact(points) ? 0 : (view.current?.pixel() ?? 0))
  const marksOf = (ids: readonly string[]) => marks.filter((mark) => ids.includes(mark.id))
  const change = (ids: readonly string[], to: (now: Mark) => Change) =>
    acts.change(marksOf(ids).map((mark) => ({ mark, to })))

  return (effect: HandEffect<Pen>) => {
    switch (effect.kind) {
      case 'draw':
        return acts.draw([markBy(effect.pen, page, onPage(effect.points), aimOf(effect.points))], (drawn) => {
          send({ kind: 'drawn', ids: drawn.map((each) => each.id), by: effect.pen.kind })
          onDrawn(drawn)
        })
      case 'show':
        return aimed.current?.(onPage(effect.points), aimOf(effect.points))
      case 'carry':
        // Moved as a whole it measures what it did.
        return change(effect.ids, (now) => ({
          points: onPage(seen(now).map((each) => add(each, effect.by))),
        }))
      case 'shape': {
        // A place set anew is as exact as the view.
        const aim_pt = view.current?.pixel() ?? 0
        return change([effect.id], (now) => ({
          points: onPage(shapedTo(now, seen(now), effect.handle, effect.reach)),
          aim_pt,
        }))
      }
      case 'remove':
        return acts.remove(marksOf(effect.ids), () => send({ kind: 'gone', ids: effect.ids }))
      case 'forget corners':
        return snap.forget()
    }
  }
}

function shapedTo(mark: Mark, seen: readonly Point[], handle: number, reach: Reach): Point[] {
  const to = 'to' in reach ? reach.to : add(handlesOf(mark.kind, seen)[handle] ?? [0, 0], reach.by)
  return reshaped(mark.kind, seen, handle, to)
}

function markBy(pen: Pen, page: number, points: [number, number][], aimPt: number): NewMark {
  return {
    page,
    kind: pen.kind,
    points,
    look: lookOf(pen),
    text: pen.text ?? '',
    label: pen.label ?? '',
    discipline: pen.discipline ?? '',
    rings: [],
    aim_pt: aimPt,
  }
}

/** Keys pressed while a change is on its way are not lost: the marks go their whole way afterwards. */
function useNudges(changing: boolean, nudge: (by: Point) => void) {
  const waiting = useRef<Point>([0, 0])
  useEffect(() => {
    const [x, y] = waiting.current
    if (changing || (x === 0 && y === 0)) return
    waiting.current = [0, 0]
    nudge([x * STEP_PT, y * STEP_PT])
  })
  return (x: number, y: number) => {
    if (changing) waiting.current = add(waiting.current, [x, y])
    else nudge([x * STEP_PT, y * STEP_PT])
  }
}

/** Mouse, pen and touch as inputs of the machine. */
function usePointers(
  now: RefObject<HandState<Pen>>,
  view: RefObject<View | null>,
  snap: Snap,
  send: (input: HandInput<Pen>) => void,
) {
  const at = (event: PointerEvent): Point => {
    const place = view.current?.place(event.clientX, event.clientY) ?? [0, 0]
    const { pen } = now.current
    return pen ? snap.snap(place, pen.kind, event.altKey) : place
  }
  const on = (event: PointerEvent, what: string) => (event.target as Element).closest(what)
  const pxOf = (event: PointerEvent): Point => [event.clientX, event.clientY]

  function down(event: PointerEvent) {
    if (event.button !== 0 || on(event, 'button, input, select, [data-panel]')) return
    const handle = on(event, '[data-handle]')?.getAttribute('data-handle')
    send({
      kind: 'pressed',
      at: at(event),
      px: pxOf(event),
      shift: event.shiftKey,
      mark: on(event, '[data-mark]')?.getAttribute('data-mark') ?? null,
      handle: handle ? Number(handle) : null,
    })
    if (now.current.gesture.kind !== 'idle') event.currentTarget.setPointerCapture(event.pointerId)
  }

  return {
    onPointerDownCapture: (event: PointerEvent) => {
      const { kind } = now.current.gesture
      down(event)
      // The sheet does not move along with what the hand does on it.
      if (event.shiftKey || kind !== 'idle') event.stopPropagation()
    },
    onPointerMove: (event: PointerEvent) => {
      if (now.current.gesture.kind === 'idle') return
      // Also before the first press: what it would catch is shown.
      const to = at(event)
      if (now.current.gesture.kind !== 'pen') send({ kind: 'moved', at: to })
    },
    onPointerUp: (event: PointerEvent) => {
      if (now.current.gesture.kind === 'idle') return
      send({
        kind: 'released',
        at: at(event),
        px: pxOf(event),
        shift: event.shiftKey,
        onControl: !!on(event, 'button, [data-panel]'),
      })
    },
    onPointerCancel: () => send({ kind: 'cancelled' }),
  }
}

function copy({ revisionId, page, marks, toView }: Props, chosen: readonly string[]) {
  const copied = marks.filter((mark) => chosen.includes(mark.id))
  if (!copied.length) return
  clipboard.from = `${revisionId}/${page}`
  clipboard.marks = copied.map((mark) => ({
    kind: mark.kind,
    points: carried(mark.points, toView),
    look: mark.look,
    text: mark.text,
    label: mark.label,
    discipline: mark.discipline,
    rings: mark.rings,
    aim_pt: 0,
  }))
}

/** What was copied, for this page; on the page that it comes from a little aside. */
function pasted({ revisionId, page, toView, perMm }: Props): NewMark[] {
  const aside = clipboard.from === `${revisionId}/${page}` ? 5 * perMm : 0
  const toPage = inverse(toView)
  return clipboard.marks.map((mark) => ({
    ...mark,
    page,
    points: pairs(
      carried(
        mark.points.map((point) => add(point, [aside, aside])),
        toPage,
      ),
    ),
  }))
}
