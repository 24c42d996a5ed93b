import { ArrowUpRight, Cloud, MapPin, MousePointer2 } from 'lucide-react'
import { useState, type PointerEvent, type RefObject } from 'react'

import type { Schemas } from '../../../api/client'
import { inverse, type Affine, type Point } from '../../../domain/affine'
import { carried } from '../../../domain/drawing'
import type { View } from '../../../ui/TileView'

export type GuestPen = 'pin' | 'cloud' | 'arrow'

const PENS = [
  [null, 'Hand', MousePointer2],
  ['pin', 'Pin', MapPin],
  ['cloud', 'Cloud', Cloud],
  ['arrow', 'Arrow', ArrowUpRight],
] as const

/** What a guest draws with: a pin where one presses, a cloud around what one drags over, an arrow. */
export function GuestPens({ pen, onPen }: { pen: GuestPen | null; onPen: (pen: GuestPen | null) => void }) {
  return (
    <div
      role="toolbar"
      aria-label="Pens"
      data-panel
      className="absolute bottom-3 left-1/2 flex -translate-x-1/2 border border-second bg-surface"
    >
      {PENS.map(([key, words, Icon]) => (
        <button
          key={words}
          type="button"
          aria-pressed={pen === key}
          onClick={() => onPen(key)}
          className="flex min-h-11 min-w-11 items-center justify-center gap-1.5 px-3 text-list hover:bg-paper aria-pressed:bg-plum-tint aria-pressed:text-plum"
        >
          <Icon size={18} aria-hidden /> {words}
        </button>
      ))}
    </div>
  )
}

/** Red, as a pen is before it is made otherwise. */
export const LOOK = {
  colour: 'red',
  weight_mm: 0.5,
  fill: '',
  opacity: 1,
  dashed: false,
  type_mm: 3.5,
  symbol: '',
}
const TOO_SMALL = 4

/** Points of a mark from where the pointer went down to where it came up; view coordinates. */
export function pointsOf(pen: GuestPen, from: Point, to: Point): Point[] | null {
  if (pen === 'pin') return [to]
  if (Math.hypot(to[0] - from[0], to[1] - from[1]) < TOO_SMALL) return null
  if (pen === 'arrow') return [from, to]
  return [from, [to[0], from[1]], to, [from[0], to[1]]]
}

interface Drawing {
  pen: GuestPen | null
  view: RefObject<View | null>
  page: number
  toView: Affine
  onDrawn: (mark: Schemas['NewMark']) => void
}

/** The hand of a guest on the sheet: what is being drawn, and the pointers that draw it. */
export function useGuestHand({ pen, view, page, toView, onDrawn }: Drawing) {
  const [from, setFrom] = useState<Point | null>(null)
  const [to, setTo] = useState<Point | null>(null)
  const at = (event: PointerEvent) => view.current?.place(event.clientX, event.clientY) ?? null
  const onPanel = (event: PointerEvent) => (event.target as Element).closest('[data-panel]') !== null
  const pointers = {
    onPointerDown: (event: PointerEvent) => {
      if (!pen || onPanel(event)) return
      setFrom(at(event))
      setTo(at(event))
    },
    onPointerMove: (event: PointerEvent) => from && setTo(at(event)),
    onPointerUp: (event: PointerEvent) => {
      const end = at(event)
      const points = pen && from && end ? pointsOf(pen, from, end) : null
      setFrom(null)
      setTo(null)
      if (!pen || !points) return
      const onPage = carried(points, inverse(toView)).map(([x, y]): [number, number] => [x, y])
      onDrawn({
        page,
        kind: pen,
        points: onPage,
        look: LOOK,
        text: '',
        label: '',
        discipline: '',
        rings: [],
        aim_pt: 0,
      })
    },
  }
  const rubber = pen && from && to ? pointsOf(pen, from, to) : null
  return { pointers, rubber, drawing: pen !== null }
}
