import type { Affine } from '../../domain/affine'
import { boxOnPage } from '../../domain/pageBox'
import type { Way } from './useWays'

interface Props {
  ways: readonly Way[]
  toView: Affine
}

/** Numbers of other sheets and links of the file as ways from the sheet: underlined on the sheet itself. */
export function WayShapes({ ways, toView }: Props) {
  return ways.map((way, place) => {
    const [left, upper, right, lower] = boxOnPage(way.box, toView)
    return (
      <g key={place} className="mark-shape" data-way={way.words} onClick={way.go}>
        <title>{way.words}</title>
        <rect
          x={left - 1}
          y={upper - 1}
          width={right - left + 2}
          height={lower - upper + 2}
          fill="#41607f"
          fillOpacity={0.12}
        />
        <path
          d={`M${left} ${lower}H${right}`}
          stroke="#41607f"
          style={{ strokeWidth: 'max(0.6px, calc(var(--unit) * 1px))' }}
        />
      </g>
    )
  })
}
