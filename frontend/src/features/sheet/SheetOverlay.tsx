import { counted } from '../../domain/counted'
import type { Affine } from '../../domain/affine'
import type { Extent } from '../../domain/drawing'
import type { Scale } from '../../domain/measure'
import { boxOnPage } from '../../domain/pageBox'
import { Handles } from '../../ui/Handles'
import { MarkShapes, Rubber } from '../../ui/MarkShapes'
import type { Hand } from './marks/useHand'
import { lookOf } from './marks/usePens'
import { useSheet } from './sheetContext'

/** What was searched for. */
export function FoundBox({ box: [left, upper, right, lower] }: { box: Extent }) {
  return (
    <rect
      data-testid="found"
      x={left - 3}
      y={upper - 3}
      width={right - left + 6}
      height={lower - upper + 6}
      fill="#9A6A00"
      fillOpacity={0.18}
      stroke="#9A6A00"
      strokeWidth={2}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  )
}

/** Parts of the page that have a scale of their own. */
export function Regions({ scales, toView }: { scales: Scale[]; toView: Affine }) {
  return scales.flatMap(({ box }, place) => {
    if (!box) return []
    const [left, upper, right, lower] = boxOnPage([...box], toView)
    return [
      <rect
        key={place}
        x={left}
        y={upper}
        width={right - left}
        height={lower - upper}
        fill="none"
        stroke="#41607f"
        strokeWidth={1.5}
        strokeDasharray="6 4"
        vectorEffect="non-scaling-stroke"
        pointerEvents="none"
      />,
    ]
  })
}

/** The marks, the handles of the one that is shaped, and what the hand is drawing. */
export function Overlay() {
  const { hand, marks, peeked, toView, drawn, valueNow } = useSheet()
  const { pen, shapeable } = hand
  return (
    <>
      <MarkShapes
        marks={marks.here}
        toView={toView}
        drawn={drawn}
        chosen={new Set(hand.chosen)}
        peeked={peeked}
        held={hand.held}
      />
      {shapeable && !pen && (
        <Handles kind={shapeable.kind} points={hand.shapeablePoints} current={hand.handle} />
      )}
      <Rubber
        gesture={hand.gesture}
        pen={pen ? { kind: pen.kind, look: lookOf(pen), text: pen.text ?? '' } : null}
        value={valueNow}
        points={hand.drawing}
        drawn={drawn}
      />
    </>
  )
}

/** What the hand can do next, where that is not plain. */
export function Telling({ hand }: { hand: Hand }) {
  const words = tellingOf(hand)
  if (!words) return null
  return (
    <p
      role="status"
      className="pointer-events-none absolute top-3 left-1/2 ml-[170px] -translate-x-1/2 border border-second bg-surface px-2.5 py-1 text-list"
    >
      {words}
    </p>
  )
}

function tellingOf({ gesture, pen, handle, chosen }: Hand): string {
  if (gesture.kind === 'placing' && pen?.kind === 'count')
    return `${gesture.points.length} counted. Enter keeps them.`
  if (gesture.kind === 'placing') return 'Press each corner; Enter or the last one again ends it.'
  if (handle !== null) return 'The arrows move this corner; h takes the next, Esc leaves it.'
  if (chosen.length > 1) return `${counted(chosen.length, 'mark')} are chosen.`
  return ''
}

/** The corner of the drawing that the pen has caught. */
export function Caught({ at: [x, y] }: { at: readonly [number, number] }) {
  return (
    <g
      className="pin-mark"
      data-testid="caught"
      pointerEvents="none"
      style={{ '--x': `${x}px`, '--y': `${y}px` } as Record<string, string>}
    >
      <rect x={-5} y={-5} width={10} height={10} fill="none" stroke="#6d2e4f" strokeWidth={2} />
    </g>
  )
}
