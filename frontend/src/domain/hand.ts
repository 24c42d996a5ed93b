import type { Point } from './affine'
import {
  add,
  around,
  caught,
  drag,
  finish,
  IDLE,
  PEN,
  press,
  release,
  type Gesture,
  type MarkKind,
} from './drawing'
import { handlesOf, reshaped } from './shapes'

/** A mark as the hand meets it: `points` in view coordinates, `free` where it may be changed. */
export interface Seen {
  id: string
  kind: MarkKind
  points: readonly Point[]
  free: boolean
}

/** What lies on the page, and points of the view to a millimetre of paper. */
export interface World {
  marks: readonly Seen[]
  perMm: number
}

interface AnyPen {
  kind: MarkKind
}

/** The hand on the sheet. What it holds between a press and a release is the gesture; all else stays. */
export interface HandState<P extends AnyPen = AnyPen> {
  gesture: Gesture
  pen: P | null
  /** The pen shows places, and draws no mark. */
  aimed: boolean
  chosen: readonly string[]
  /** The handle that the arrow keys move. */
  handle: number | null
  /** The mark just drawn, whose text is typed next. */
  fresh: string
  /** Where the hand went down, in pixels of the screen, and on which mark. */
  pressed: { px: Point; mark: string | null }
}

export type HandInput<P extends AnyPen = AnyPen> =
  | { kind: 'pressed'; at: Point; px: Point; shift: boolean; mark: string | null; handle: number | null }
  | { kind: 'moved'; at: Point }
  | { kind: 'released'; at: Point; px: Point; shift: boolean; onControl: boolean }
  | { kind: 'cancelled' }
  | { kind: 'took'; pen: P | null; aimed: boolean }
  | { kind: 'chose'; ids: readonly string[] }
  | { kind: 'drawn'; ids: readonly string[]; by: MarkKind | null }
  | { kind: 'settled' }
  | { kind: 'entered'; middle: Point }
  | { kind: 'nudged'; by: Point }
  | { kind: 'next handle' }
  | { kind: 'took back' }
  | { kind: 'removed' }
  | { kind: 'gone'; ids: readonly string[] }
  | { kind: 'escaped' }

/** Where a handle is to be: there, or so far from where it is by then. */
export type Reach = { to: Point } | { by: Point }

/** What is to be done besides; points in view coordinates, in the order in which it is to be done. */
export type HandEffect<P extends AnyPen = AnyPen> =
  | { kind: 'draw'; pen: P; points: readonly Point[] }
  | { kind: 'show'; points: readonly Point[] }
  | { kind: 'carry'; ids: readonly string[]; by: Point }
  | { kind: 'shape'; id: string; handle: number; reach: Reach }
  | { kind: 'remove'; ids: readonly string[] }
  | { kind: 'forget corners' }

type Step<P extends AnyPen> = [HandState<P>, readonly HandEffect<P>[]]
type Handler<P extends AnyPen, K extends HandInput['kind']> = (
  state: HandState<P>,
  input: Extract<HandInput<P>, { kind: K }>,
  world: World,
) => Step<P>

/** A press that moves less than this, in pixels of the screen, was a click. */
const CLICK_PX = 4
const STAYS_UP: ReadonlySet<MarkKind> = new Set([
  'symbol',
  'highlight',
  'freehand',
  'distance',
  'path',
  'area',
  'perimeter',
  'angle',
])

export function handAtRest<P extends AnyPen>(chosen: readonly string[] = []): HandState<P> {
  return {
    gesture: IDLE,
    pen: null,
    aimed: false,
    chosen,
    handle: null,
    fresh: '',
    pressed: { px: [0, 0], mark: null },
  }
}

/** The chosen marks that may be changed. */
export function freeOf(state: HandState, world: World): readonly Seen[] {
  return world.marks.filter((mark) => mark.free && state.chosen.includes(mark.id))
}

/** The mark whose handles are shown: one alone that may be changed. */
export function shapeableOf(state: HandState, world: World): Seen | null {
  return state.chosen.length === 1 ? (freeOf(state, world)[0] ?? null) : null
}

/** Where the points of marks are while the hand has them. */
export function heldOf(state: HandState, world: World): Map<string, readonly Point[]> {
  const { gesture } = state
  if (gesture.kind === 'moving') {
    const by = wayOf(gesture)
    return new Map(freeOf(state, world).map((mark) => [mark.id, mark.points.map((each) => add(each, by))]))
  }
  const shaped = gesture.kind === 'shaping' ? shapeableOf(state, world) : null
  if (gesture.kind !== 'shaping' || !shaped) return new Map()
  return new Map([[shaped.id, reshaped(shaped.kind, shaped.points, gesture.handle, gesture.to)]])
}

/** The points of what is being drawn: as if the hand let go now. */
export function drawingOf({ gesture, pen }: HandState, perMm: number): readonly Point[] | null {
  if (!pen) return null
  if (gesture.kind === 'stroking') return gesture.points
  if (gesture.kind === 'placing')
    return pen.kind === 'count' ? gesture.points : [...gesture.points, gesture.to]
  return gesture.kind === 'dragging' ? release(gesture, pen.kind, gesture.to, perMm).points : null
}

function wayOf({ from, to }: { from: Point; to: Point }): Point {
  return [to[0] - from[0], to[1] - from[1]]
}

const choosing = <P extends AnyPen>(state: HandState<P>, ids: readonly string[]): HandState<P> => ({
  ...state,
  chosen: ids,
  handle: null,
  fresh: '',
})

function taking<P extends AnyPen>(state: HandState<P>, pen: P | null, aimed = false): Step<P> {
  return [{ ...state, pen, aimed, gesture: pen ? PEN : IDLE }, pen ? [] : [{ kind: 'forget corners' }]]
}

function pressIdle<P extends AnyPen>(
  state: HandState<P>,
  { at, shift, mark, handle }: Extract<HandInput<P>, { kind: 'pressed' }>,
  world: World,
): HandState<P> {
  if (handle !== null && shapeableOf(state, world))
    return { ...state, gesture: { kind: 'shaping', handle, from: at, to: at } }
  if (mark) {
    const had = state.chosen.includes(mark)
    const added = had ? state : choosing(state, shift ? [...state.chosen, mark] : [mark])
    const next =
      had && shift
        ? choosing(
            state,
            state.chosen.filter((each) => each !== mark),
          )
        : added
    return { ...next, gesture: { kind: 'moving', from: at, to: at } }
  }
  return shift ? { ...state, gesture: { kind: 'lasso', from: at, to: at } } : state
}

/** What has been drawn, or shown, with the pen in the hand. */
function drewWith<P extends AnyPen>(state: HandState<P>, points: readonly Point[] | null): Step<P> {
  if (!state.pen || !points) return [state, []]
  if (!state.aimed) return [state, [{ kind: 'draw', pen: state.pen, points }]]
  const [down, effects] = taking(state, null)
  return [down, [{ kind: 'show', points }, ...effects]]
}

/** The hand lets go of marks that it carried, or of a handle. */
function letGo<P extends AnyPen>(
  state: HandState<P>,
  clicked: boolean,
  shift: boolean,
  world: World,
): Step<P> {
  const { gesture, pressed } = state
  const idle = { ...state, gesture: IDLE }
  if (clicked) return [pressed.mark && !shift ? choosing(idle, [pressed.mark]) : idle, []]
  if (gesture.kind === 'moving') {
    const ids = freeOf(state, world).map((mark) => mark.id)
    return [idle, ids.length ? [{ kind: 'carry', ids, by: wayOf(gesture) }] : []]
  }
  const shaped = shapeableOf(state, world)
  if (gesture.kind !== 'shaping' || !shaped) return [idle, []]
  return [idle, [{ kind: 'shape', id: shaped.id, handle: gesture.handle, reach: { to: gesture.to } }]]
}

/** Something is held or being drawn: it is not over before the hand lets go. */
function isBusy({ gesture }: HandState): boolean {
  return gesture.kind !== 'idle' && gesture.kind !== 'pen'
}

const HANDLERS: { [K in HandInput['kind']]: Handler<AnyPen, K> } = {
  pressed: (state, input, world) => {
    const down = { ...state, pressed: { px: input.px, mark: input.mark } }
    if (state.gesture.kind === 'idle') return [pressIdle(down, input, world), []]
    if (!state.pen) return [state, []]
    return [
      {
        ...down,
        pressed: { px: input.px, mark: null },
        gesture: press(state.gesture, state.pen.kind, input.at),
      },
      [],
    ]
  },
  moved: (state, { at }) => [{ ...state, gesture: drag(state.gesture, at) }, []],
  released: (state, { at, px, shift, onControl }, world) => {
    const { gesture, pen, pressed } = state
    if (gesture.kind === 'idle' || (onControl && gesture.kind === 'pen')) return [state, []]
    const clicked = Math.hypot(px[0] - pressed.px[0], px[1] - pressed.px[1]) < CLICK_PX
    if (gesture.kind === 'lasso') {
      const inside = world.marks.filter((mark) => caught(mark.points, gesture.from, gesture.to))
      const ids = inside.map((mark) => mark.id)
      return [{ ...choosing(state, ids), gesture: IDLE }, []]
    }
    if (!pen) return letGo(state, clicked, shift, world)
    const { gesture: next, points } = release(gesture, pen.kind, at, world.perMm, clicked)
    return drewWith({ ...state, gesture: next }, points)
  },
  cancelled: (state) => [{ ...state, gesture: state.pen ? PEN : IDLE }, []],
  took: (state, { pen, aimed }) => taking(state, pen, aimed),
  chose: (state, { ids }) => [choosing(state, ids), []],
  drawn: (state, { ids, by }) => {
    // The hand has gone on: what it does now is not disturbed, and no text asks for the keys.
    if (isBusy(state) || (state.pen && state.pen.kind !== by)) return [state, []]
    const next = choosing(state, ids)
    if (by === null) return [next, []]
    const fresh = { ...next, fresh: ids[0] ?? '' }
    return STAYS_UP.has(by) || !state.pen ? [fresh, []] : taking(fresh, null)
  },
  settled: (state) => [{ ...state, fresh: '' }, []],
  entered: (state, { middle }, { perMm }) => {
    const { gesture, pen } = state
    if (!pen) return [state, []]
    if (gesture.kind === 'pen') return drewWith(state, around(pen.kind, middle, perMm))
    if (gesture.kind !== 'placing') return [state, []]
    const { gesture: next, points } = finish(gesture, pen.kind)
    return drewWith({ ...state, gesture: next }, points)
  },
  nudged: (state, { by }, world) => {
    const shaped = shapeableOf(state, world)
    if (state.handle !== null && shaped)
      return [state, [{ kind: 'shape', id: shaped.id, handle: state.handle, reach: { by } }]]
    const ids = freeOf(state, world).map((mark) => mark.id)
    return [state, ids.length ? [{ kind: 'carry', ids, by }] : []]
  },
  'next handle': (state, _input, world) => {
    const shaped = shapeableOf(state, world)
    const count = shaped ? handlesOf(shaped.kind, shaped.points).length : 0
    return [count ? { ...state, handle: ((state.handle ?? -1) + 1) % count } : state, []]
  },
  'took back': (state) => {
    const { gesture } = state
    if (gesture.kind !== 'placing') return [state, []]
    return [{ ...state, gesture: { ...gesture, points: gesture.points.slice(0, -1) } }, []]
  },
  removed: (state, _input, world) => {
    const ids = freeOf(state, world).map((mark) => mark.id)
    return [{ ...state, fresh: '' }, ids.length ? [{ kind: 'remove', ids }] : []]
  },
  // Long after it was asked for, maybe: what has been chosen since stays chosen.
  gone: (state, { ids }) => {
    const left = state.chosen.filter((each) => !ids.includes(each))
    return [left.length === state.chosen.length ? state : choosing(state, left), []]
  },
  escaped: (state) => {
    if (state.gesture.kind === 'placing') return [{ ...state, gesture: PEN }, []]
    if (state.pen) return taking(state, null)
    return [state.handle === null ? choosing(state, []) : { ...state, handle: null }, []]
  },
}

/** What the hand is after something has happened to it, and what that asks for. Pure: the same of the same. */
export function handStep<P extends AnyPen>(
  state: HandState<P>,
  input: HandInput<P>,
  world: World,
): [HandState<P>, readonly HandEffect<P>[]] {
  // Each handler takes the input of its own name, which a look-up by name cannot show to the compiler.
  const handler = HANDLERS[input.kind] as unknown as Handler<P, typeof input.kind>
  return handler(state, input, world)
}
