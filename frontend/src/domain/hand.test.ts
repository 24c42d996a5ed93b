import { describe, expect, it } from 'vitest'

import type { Point } from './affine'
import type { MarkKind } from './drawing'
import {
  drawingOf,
  handAtRest,
  handStep,
  heldOf,
  shapeableOf,
  type HandEffect,
  type HandInput,
  type HandState,
  type Seen,
  type World,
} from './hand'

const seen = (id: string, at: Point, more: Partial<Seen> = {}): Seen => ({
  id,
  kind: 'rectangle',
  points: [at, [at[0] + 20, at[1] + 10]],
  free: true,
  ...more,
})
const WORLD: World = {
  perMm: 72 / 25.4,
  marks: [seen('a', [0, 0]), seen('b', [100, 100]), seen('locked', [200, 0], { free: false })],
}

const press = (at: Point, more: Partial<Extract<HandInput, { kind: 'pressed' }>> = {}): HandInput => ({
  kind: 'pressed',
  at,
  px: at,
  shift: false,
  mark: null,
  handle: null,
  ...more,
})
const release = (at: Point, more: Partial<Extract<HandInput, { kind: 'released' }>> = {}): HandInput => ({
  kind: 'released',
  at,
  px: at,
  shift: false,
  onControl: false,
  ...more,
})
const took = (kind: MarkKind | null, aimed = false): HandInput => ({
  kind: 'took',
  pen: kind && { kind },
  aimed,
})

/** The hand after some inputs, and all that they asked for. */
function after(inputs: readonly HandInput[], from: HandState = handAtRest(), world: World = WORLD) {
  return inputs.reduce<{ state: HandState; asked: HandEffect[] }>(
    ({ state, asked }, input) => {
      const [next, effects] = handStep(state, input, world)
      return { state: next, asked: [...asked, ...effects] }
    },
    { state: from, asked: [] },
  )
}

describe('choosing', () => {
  it('takes the mark that is pressed, and with shift one more or one less', () => {
    const one = after([press([5, 5], { mark: 'a' }), release([5, 5])]).state
    expect(one.chosen).toEqual(['a'])
    const two = after([press([105, 105], { mark: 'b', shift: true }), release([105, 105])], one).state
    // A click without shift leaves only the one that was clicked.
    expect(two.chosen).toEqual(['b'])
    const both = after(
      [press([105, 105], { mark: 'b', shift: true }), release([105, 105], { shift: true })],
      one,
    ).state
    expect(both.chosen).toEqual(['a', 'b'])
    const less = after([press([5, 5], { mark: 'a', shift: true })], both).state
    expect(less.chosen).toEqual(['b'])
  })

  it('catches what lies whole in a box, with shift from bare paper', () => {
    const caught = after([press([-5, -5], { shift: true }), { kind: 'moved', at: [120, 60] }])
    expect(caught.state.gesture.kind).toBe('lasso')
    const { state, asked } = after(
      [release([230, 60])],
      after([{ kind: 'moved', at: [230, 60] }], caught.state).state,
    )
    expect(state.chosen).toEqual(['a', 'locked'])
    expect(state.gesture.kind).toBe('idle')
    expect(asked).toEqual([])
  })

  it('leaves the sheet to be moved where bare paper is pressed', () => {
    expect(after([press([50, 50])]).state.gesture.kind).toBe('idle')
  })
})

describe('carrying', () => {
  const held = after([press([5, 5], { mark: 'a' }), { kind: 'moved', at: [35, 15] }]).state

  it('shows a mark where the hand has it and asks for the way it went', () => {
    expect(heldOf(held, WORLD).get('a')).toEqual([
      [30, 10],
      [50, 20],
    ])
    const { state, asked } = after([release([35, 15])], held)
    expect(asked).toEqual([{ kind: 'carry', ids: ['a'], by: [30, 10] }])
    expect(state.gesture.kind).toBe('idle')
    expect(heldOf(state, WORLD).size).toBe(0)
  })

  it('asks for nothing where the hand hardly moved, or may not change the mark', () => {
    expect(after([release([7, 6])], after([press([5, 5], { mark: 'a' })]).state).asked).toEqual([])
    const locked = after([
      press([205, 5], { mark: 'locked' }),
      { kind: 'moved', at: [250, 50] },
      release([250, 50]),
    ])
    expect(locked.asked).toEqual([])
    expect(locked.state.chosen).toEqual(['locked'])
  })

  it('goes back to rest when the pointer is taken away', () => {
    expect(after([{ kind: 'cancelled' }], held).state.gesture.kind).toBe('idle')
  })
})

describe('shaping', () => {
  it('has handles for one mark alone that may be changed', () => {
    expect(shapeableOf(handAtRest(['a']), WORLD)?.id).toBe('a')
    expect(shapeableOf(handAtRest(['a', 'b']), WORLD)).toBeNull()
    expect(shapeableOf(handAtRest(['locked']), WORLD)).toBeNull()
  })

  it('asks for the place to which a handle was drawn', () => {
    const { state, asked } = after(
      [press([20, 10], { handle: 2 }), { kind: 'moved', at: [40, 30] }, release([40, 30])],
      handAtRest(['a']),
    )
    expect(asked).toEqual([{ kind: 'shape', id: 'a', handle: 2, reach: { to: [40, 30] } }])
    expect(state.chosen).toEqual(['a'])
  })

  it('moves by the arrows the handle that h has taken, otherwise the mark', () => {
    const nudge: HandInput = { kind: 'nudged', by: [1, 0] }
    expect(after([nudge], handAtRest(['a', 'locked'])).asked).toEqual([
      { kind: 'carry', ids: ['a'], by: [1, 0] },
    ])
    expect(after([{ kind: 'next handle' }, nudge], handAtRest(['a'])).asked).toEqual([
      { kind: 'shape', id: 'a', handle: 0, reach: { by: [1, 0] } },
    ])
    const round = Array.from({ length: 5 }, (): HandInput => ({ kind: 'next handle' }))
    expect(after(round, handAtRest(['a'])).state.handle).toBe(0)
  })
})

describe('a pen', () => {
  it('draws by a drag and stays up until the answer says what was drawn', () => {
    const { state, asked } = after([
      took('rectangle'),
      press([10, 10]),
      { kind: 'moved', at: [60, 50] },
      release([60, 50]),
    ])
    expect(asked).toEqual([
      {
        kind: 'draw',
        pen: { kind: 'rectangle' },
        points: [
          [10, 10],
          [60, 50],
        ],
      },
    ])
    expect(state.pen).toEqual({ kind: 'rectangle' })
    const { state: down, asked: then } = after([{ kind: 'drawn', ids: ['new'], by: 'rectangle' }], state)
    expect(down).toMatchObject({ pen: null, chosen: ['new'], fresh: 'new', gesture: { kind: 'idle' } })
    expect(then).toEqual([{ kind: 'forget corners' }])
  })

  it.each(['highlight', 'freehand', 'distance', 'symbol'] as const)(
    'stays in the hand after a %s',
    (kind) => {
      const { state } = after([took(kind), { kind: 'drawn', ids: ['new'], by: kind }])
      expect(state).toMatchObject({ pen: { kind }, chosen: ['new'] })
    },
  )

  it('that was taken since stays in the hand when the answer comes, and no text asks for the keys', () => {
    const { state } = after([
      took('rectangle'),
      took('cloud'),
      { kind: 'drawn', ids: ['new'], by: 'rectangle' },
    ])
    expect(state).toMatchObject({ pen: { kind: 'cloud' }, gesture: { kind: 'pen' }, chosen: [], fresh: '' })
  })

  it.each(['rectangle', 'freehand'] as const)(
    'draws its next %s to the end when the answer to the last comes meanwhile',
    (kind) => {
      const down = after([took(kind), press([0, 0]), { kind: 'moved', at: [40, 0] }]).state
      const { state } = after([{ kind: 'drawn', ids: ['new'], by: kind }], down)
      expect(state).toBe(down)
      const { asked } = after([{ kind: 'moved', at: [90, 50] }, release([90, 50])], state)
      expect(asked).toMatchObject([{ kind: 'draw' }])
    },
  )

  it('goes along while corners are placed, and back one by one', () => {
    const placing = after([took('polyline'), press([0, 0]), release([0, 0]), { kind: 'moved', at: [50, 0] }])
    expect(drawingOf(placing.state, WORLD.perMm)).toEqual([
      [0, 0],
      [50, 0],
    ])
    const two = after([press([50, 0]), release([50, 0]), { kind: 'took back' }], placing.state).state
    expect(two.gesture).toMatchObject({ kind: 'placing', points: [[0, 0]] })
    const { state, asked } = after(
      [press([50, 0]), release([50, 0]), { kind: 'entered', middle: [0, 0] }],
      two,
    )
    expect(asked).toMatchObject([
      {
        kind: 'draw',
        points: [
          [0, 0],
          [50, 0],
        ],
      },
    ])
    expect(state.gesture.kind).toBe('pen')
  })

  it('shows places for whoever asked, draws nothing, and is put down', () => {
    const { state, asked } = after([
      took('distance', true),
      press([0, 0]),
      { kind: 'moved', at: [70, 0] },
      release([70, 0]),
    ])
    expect(asked).toEqual([
      {
        kind: 'show',
        points: [
          [0, 0],
          [70, 0],
        ],
      },
      { kind: 'forget corners' },
    ])
    expect(state).toMatchObject({ pen: null, gesture: { kind: 'idle' } })
  })

  it('draws a mark of usual size by Enter alone', () => {
    const { asked } = after([took('pin'), { kind: 'entered', middle: [40, 40] }])
    expect(asked).toEqual([{ kind: 'draw', pen: { kind: 'pin' }, points: [[40, 40]] }])
  })

  it('is not used by a press that ends on a button', () => {
    expect(after([took('pin'), release([40, 40], { onControl: true })]).asked).toEqual([])
    expect(after([took('pin'), release([40, 40])]).asked).toHaveLength(1)
  })
})

describe('Escape', () => {
  it('drops the corners, then the pen, then the handle, then what is chosen', () => {
    const placing = after([took('area'), press([0, 0]), release([0, 0])]).state
    const escape: HandInput = { kind: 'escaped' }
    const first = after([escape], placing).state
    expect(first).toMatchObject({ gesture: { kind: 'pen' }, pen: { kind: 'area' } })
    expect(after([escape], first).state).toMatchObject({ gesture: { kind: 'idle' }, pen: null })
    const shaped = after([{ kind: 'next handle' }], handAtRest(['a'])).state
    const left = after([escape], shaped).state
    expect(left).toMatchObject({ handle: null, chosen: ['a'] })
    expect(after([escape], left).state.chosen).toEqual([])
  })
})

describe('removing', () => {
  it('asks for those that may be changed, and keeps them chosen until they are gone', () => {
    const { state, asked } = after([{ kind: 'removed' }], handAtRest(['a', 'locked']))
    expect(asked).toEqual([{ kind: 'remove', ids: ['a'] }])
    expect(state.chosen).toEqual(['a', 'locked'])
    expect(after([{ kind: 'removed' }], handAtRest(['locked'])).asked).toEqual([])
  })

  it('leaves chosen what was chosen since, however late the answer comes', () => {
    const asked = after([{ kind: 'removed' }], handAtRest(['a'])).state
    const since = after([{ kind: 'chose', ids: ['b', 'locked'] }], asked).state
    expect(after([{ kind: 'gone', ids: ['a'] }], since).state.chosen).toEqual(['b', 'locked'])
    expect(after([{ kind: 'gone', ids: ['a'] }], asked).state.chosen).toEqual([])
  })
})

it('leaves what it was given as it was', () => {
  const rest = Object.freeze(handAtRest(['a'])) as HandState
  const frozen: World = Object.freeze({ ...WORLD, marks: Object.freeze([...WORLD.marks]) })
  const inputs = [
    press([5, 5], { mark: 'b', shift: true }),
    { kind: 'moved', at: [9, 9] },
    release([50, 50]),
    { kind: 'settled' },
  ] as const
  const once = after(inputs, rest, frozen)
  expect(after(inputs, rest, frozen)).toEqual(once)
  expect(rest.chosen).toEqual(['a'])
})
