import type { Schemas } from '../api/client'
import type { Point } from '../domain/affine'
import { extent } from '../domain/drawing'
import { LINE_SHARE, linesOfWords, shapePath } from '../domain/shapes'

interface Props {
  points: readonly Point[]
  look: Schemas['MarkLook']
  ink: string
  chosen: boolean
}

/** Words of the sheet that are underlined or struck out: caught by their boxes, drawn as a line. */
export function LinedWords({ points, look, ink, chosen }: Props) {
  const [, upper, , lower] = extent(points.slice(0, 2))
  const weight = (lower - upper) * LINE_SHARE
  return (
    <g opacity={look.opacity}>
      <path
        d={shapePath('highlight', points, 0, 0)}
        fill={ink}
        fillOpacity={chosen ? 0.08 : 0}
        pointerEvents="all"
      />
      <path
        d={linesOfWords(points, look.symbol ?? '')}
        fill="none"
        stroke={ink}
        pointerEvents="none"
        style={{ strokeWidth: `max(${weight}px, calc(var(--unit) * 1.3px))` }}
      />
    </g>
  )
}
