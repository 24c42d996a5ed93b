import type { CSSProperties } from 'react'

import type { Point } from '../domain/affine'
import type { MarkKind } from '../domain/drawing'
import { handlesOf } from '../domain/shapes'

interface HandlesProps {
  kind: MarkKind
  points: readonly Point[]
  /** The handle that the arrow keys move, if any. */
  current: number | null
}

/** The points of a mark that the hand takes hold of. */
export function Handles({ kind, points, current }: HandlesProps) {
  return handlesOf(kind, points).map(([x, y], place) => (
    <g
      key={place}
      data-handle={place}
      className="pin-mark cursor-move"
      style={{ '--x': `${x}px`, '--y': `${y}px` } as CSSProperties}
    >
      <rect x={-11} y={-11} width={22} height={22} fill="transparent" />
      <rect
        x={-5}
        y={-5}
        width={10}
        height={10}
        fill={place === current ? '#6d2e4f' : '#fffdf8'}
        stroke="#6d2e4f"
        strokeWidth={1.5}
      />
    </g>
  ))
}
