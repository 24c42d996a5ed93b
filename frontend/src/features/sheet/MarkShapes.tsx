import { apply, type Affine } from '../../domain/affine'
import { cloudPath } from '../../domain/cloudPath'
import { carried, rectangle, type Gesture } from '../../domain/drawing'
import type { Mark } from './useMarks'

/** Eight colours that stay apart for colour-blind eyes; two are in use so far. */
const INKS: Record<string, string> = { red: '#b5301f', blue: '#0b5fa5', green: '#1f6650', orange: '#a85b00' }

interface Props {
  marks: Mark[]
  toView: Affine
  chosen: string | null
  onChoose: (id: string) => void
}

/** The marks of a page, in view coordinates. Pencil is dashed and grey: only its author sees it. */
export function MarkShapes({ marks, toView, chosen, onChoose }: Props) {
  return marks.map((mark) => {
    const colour = mark.inked_at ? (INKS[mark.colour] ?? INKS['red']) : '#5b6670'
    const shared = {
      className: 'mark-shape',
      'data-mark': mark.id,
      stroke: colour,
      onClick: () => onChoose(mark.id),
    }
    if (mark.kind === 'pin') {
      const [x, y] = apply(toView, mark.points[0] ?? [0, 0])
      return (
        <g
          key={mark.id}
          {...shared}
          className="mark-shape pin-mark"
          style={{ '--x': `${x}px`, '--y': `${y}px` } as React.CSSProperties}
        >
          <path
            d="M0 0L-8 -14A11 11 0 1 1 8 -14Z"
            fill={mark.inked_at ? colour : '#fffdf8'}
            strokeWidth={chosen === mark.id ? 3.5 : 1.5}
            strokeDasharray={mark.inked_at ? undefined : '3 2'}
          />
          <text
            y={-16.5}
            textAnchor="middle"
            fontSize={12}
            fontWeight={700}
            stroke="none"
            fill={mark.inked_at ? '#fff' : colour}
          >
            {mark.pin_number ?? '·'}
          </text>
        </g>
      )
    }
    return (
      <path
        key={mark.id}
        {...shared}
        d={cloudPath(carried(mark.points, toView))}
        fill={chosen === mark.id ? colour : 'transparent'}
        fillOpacity={0.1}
        style={{
          strokeWidth: `max(${chosen === mark.id ? 4 : 2.2}px, calc(var(--unit) * ${chosen === mark.id ? 3 : 1.8}px))`,
        }}
        strokeDasharray={mark.inked_at ? undefined : '7 4'}
      />
    )
  })
}

/** What the hand is drawing at the moment. */
export function Rubber({ gesture }: { gesture: Gesture }) {
  if (gesture.kind !== 'dragging') return null
  return (
    <path
      d={cloudPath(rectangle(gesture.from, gesture.to))}
      fill="none"
      stroke="#5b6670"
      strokeWidth={2.2}
      strokeDasharray="7 4"
    />
  )
}
