import { useRef, useState, type PointerEvent, type ReactNode, type Ref, type RefObject } from 'react'

import type { Point } from '../../domain/affine'
import { TileView, type Part, type View } from '../../ui/TileView'
import type { Shown } from './asked'
import type { Picking } from './usePicking'
import { perMm, tilesOf, type LaidOver } from './useLaidOver'

const CLICK_PX = 4

interface Props {
  laid: LaidOver
  shown: Shown
  /** Beside each other they move by themselves. */
  apart: boolean
  picking: Picking
  /** The view that the list of places moves. */
  view: RefObject<View | null>
  children: ReactNode
}

/** Both sheets: as one picture, beside each other, or one under the other with a slider between them. */
export function LaidView({ laid, shown, apart, picking, view, children }: Props) {
  const other = useRef<View>(null)
  const [leading, setLeading] = useState<'first' | 'second'>('second')
  const [at, setAt] = useState(50)
  // Each follows the one under the hand; the list moves the second.
  const follow = (side: 'first' | 'second') => (part: Part) => {
    if (leading === side && !(apart && shown === 'beside'))
      (side === 'first' ? view : other).current?.follow(part)
  }
  const lead = (side: 'first' | 'second') => ({
    onPointerDownCapture: () => setLeading(side),
    onWheelCapture: () => setLeading(side),
    onKeyDownCapture: () => setLeading(side),
  })

  if (shown === 'overlay' && !picking.picking)
    return (
      <div className="size-full">
        <TileView source={tilesOf(laid, 'both')} drawing={false} view={view}>
          {children}
        </TileView>
      </div>
    )
  const name = (side: 'first' | 'second') => {
    const sheet = side === 'first' ? laid.before : laid.after
    return `${sheet.number} ${sheet.revision}`
  }
  const pane = (side: 'first' | 'second', paneView: Ref<View>, bare = false) => (
    <TileView
      source={tilesOf(laid, side)}
      drawing={false}
      bare={bare}
      view={paneView}
      onMove={follow(side)}
      onOpen={() => setLeading('second')}
    >
      {side === 'second' && children}
      <Picked picking={picking} side={side} laid={laid} />
    </TileView>
  )
  if (shown === 'slider' && !picking.picking)
    return (
      <div className="relative size-full">
        <div className="absolute inset-0" {...lead('second')}>
          {pane('second', view)}
        </div>
        <div
          className="pointer-events-none absolute inset-0 bg-[#8d938f]"
          style={{ clipPath: `inset(0 ${100 - at}% 0 0)` }}
        >
          {pane('first', other)}
        </div>
        <span
          aria-hidden
          className="pointer-events-none absolute inset-y-0 w-0.5 bg-plum"
          style={{ left: `${at}%` }}
        />
        <label className="absolute inset-x-6 bottom-3" data-panel>
          <span className="sr-only">How much of the first is seen</span>
          <input
            type="range"
            min={0}
            max={100}
            value={at}
            onChange={(event) => setAt(Number(event.target.value))}
            className="w-full accent-plum"
          />
        </label>
      </div>
    )
  return (
    <div className="grid size-full grid-cols-2 divide-x divide-second">
      {(['first', 'second'] as const).map((side) => (
        <figure key={side} className="relative min-w-0" {...lead(side)}>
          <Pickable
            picking={picking}
            side={side}
            view={side === 'first' ? other : view}
            perMm={perMm(laid)}
            name={name(side)}
          >
            {pane(side, side === 'first' ? other : view)}
          </Pickable>
          <figcaption className="code absolute bottom-2 left-2 border border-line bg-surface px-2 py-0.5 text-list">
            {name(side)}
          </figcaption>
        </figure>
      ))}
    </div>
  )
}

interface PickableProps {
  picking: Picking
  side: 'first' | 'second'
  view: RefObject<View | null>
  perMm: number
  name: string
  children: ReactNode
}

/** Takes a click as a place while places are picked; dragging still moves. */
function Pickable({ picking, side, view, perMm, name, children }: PickableProps) {
  const pressed = useRef<Point>([0, 0])
  if (!picking.picking) return children
  return (
    <div
      role="application"
      aria-label={`Pick a place in ${name}`}
      className="size-full cursor-crosshair"
      onPointerDownCapture={(event: PointerEvent) => (pressed.current = [event.clientX, event.clientY])}
      onPointerUp={(event: PointerEvent) => {
        const [x, y] = pressed.current
        if (Math.hypot(event.clientX - x, event.clientY - y) > CLICK_PX) return
        const at = view.current?.place(event.clientX, event.clientY)
        if (at) picking.pick(side, [at[0] / perMm, at[1] / perMm])
      }}
    >
      {children}
    </div>
  )
}

function Picked({ picking, side, laid }: { picking: Picking; side: 'first' | 'second'; laid: LaidOver }) {
  if (!picking.picking) return null
  const places = picking.pairs.map((pair) => pair[side === 'first' ? 0 : 1])
  if (side === 'first' && picking.waiting) places.push(picking.waiting)
  return places.map(([x, y], place) => (
    <g
      key={place}
      className="pin-mark"
      style={{ '--x': `${x * perMm(laid)}px`, '--y': `${y * perMm(laid)}px` } as Record<string, string>}
    >
      <path d="M-9 0H9M0 -9V9" stroke="#6d2e4f" strokeWidth={2} />
      <text x={8} y={-8} fontSize={14} fontWeight={700} fill="#6d2e4f">
        {place + 1}
      </text>
    </g>
  ))
}
