import type { Affine } from '../../domain/affine'
import { boxOnPage } from '../../domain/pageBox'
import type { Reference } from './useSheetWords'

interface Props {
  references: readonly Reference[]
  toView: Affine
  onOpen: (reference: Reference) => void
}

/** Numbers of other sheets as ways to these: underlined on the sheet itself. */
export function ReferenceLinks({ references, toView, onOpen }: Props) {
  return references.map((each, place) => {
    const [left, upper, right, lower] = boxOnPage(each.box, toView)
    return (
      <g key={place} className="mark-shape" data-reference={each.number} onClick={() => onOpen(each)}>
        <title>{`${each.number} ${each.title}`}</title>
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
