import { memo, type CSSProperties } from 'react'

import type { Affine, Point } from '../domain/affine'
import { carried, extent, type Gesture, type MarkKind } from '../domain/drawing'
import { shapePath, valueAt, WRITTEN } from '../domain/shapes'
import type { Schemas } from '../api/client'
import { LinedWords } from './LinedWords'

type Mark = Schemas['Mark']
type Look = Schemas['MarkLook']

const PENCIL = '#5b6670'

/** How marks are drawn on a page: inks, sizes on paper, and points of the view to a millimetre of paper. */
export interface Drawn {
  with: Schemas['DrawnWith']
  perMm: number
}

interface Props {
  marks: Mark[]
  toView: Affine
  drawn: Drawn
  chosen: ReadonlySet<string>
  /** The one that is pointed at in the list. */
  peeked: string
  /** Where the points of marks are while the hand has them; view coordinates. */
  held: ReadonlyMap<string, readonly Point[]>
}

/** The marks of a page, in view coordinates. Pencil is dashed and grey: only its author sees it. */
export function MarkShapes({ marks, toView, drawn, chosen, peeked, held }: Props) {
  return marks.map((mark) => (
    <OneMark
      key={mark.id}
      mark={mark}
      held={held.get(mark.id)}
      toView={toView}
      chosen={chosen.has(mark.id)}
      peeked={peeked === mark.id}
      drawn={drawn}
    />
  ))
}

interface OneProps {
  mark: Mark
  held: readonly Point[] | undefined
  toView: Affine
  chosen: boolean
  peeked: boolean
  drawn: Drawn
}

/** Drawn anew only when it is otherwise: there may be thousands, and one more comes many times a second. */
const OneMark = memo(function OneMark({ mark, held, toView, chosen, peeked, drawn }: OneProps) {
  const points = held ?? carried(mark.points, toView)
  return (
    <g className="mark-shape" data-mark={mark.id}>
      {(chosen || peeked) && <Around points={points} pin={mark.kind === 'pin'} />}
      <Shape
        kind={mark.kind}
        points={points}
        look={mark.look}
        text={mark.text}
        pencil={!mark.inked_at}
        number={mark.pin_number}
        rings={mark.rings}
        value={held ? '' : (mark.measured?.words ?? '')}
        chosen={chosen}
        drawn={drawn}
      />
    </g>
  )
})

/** Corners around a mark, so that one sees which it is: on paper and on ink alike, at any distance. */
function Around({ points, pin }: { points: readonly Point[]; pin: boolean }) {
  const [left, upper, right, lower] = extent(points)
  const corners = [
    [left, upper, 1, 1],
    [right, upper, -1, 1],
    [right, lower, -1, -1],
    [left, lower, 1, -1],
  ] as const
  // Of a tag its corner is the place: the frame goes around all of it.
  const out = pin ? [6, 30, 32, 6] : [9, 9, 9, 9]
  return corners.map(([x, y, toRight, down], place) => (
    <g
      key={place}
      pointerEvents="none"
      className="around"
      style={{ '--x': `${x}px`, '--y': `${y}px` } as CSSProperties}
    >
      {['#fffdf8', '#6d2e4f'].map((stroke) => (
        <path
          key={stroke}
          d={cornerPath(
            -toRight * (out[toRight > 0 ? 0 : 2] ?? 9),
            -down * (out[down > 0 ? 1 : 3] ?? 9),
            toRight,
            down,
          )}
          fill="none"
          stroke={stroke}
          strokeWidth={stroke === '#6d2e4f' ? 3 : 6}
        />
      ))}
    </g>
  ))
}

const cornerPath = (x: number, y: number, toRight: number, down: number) =>
  `M${x + 11 * toRight} ${y}H${x}V${y + 11 * down}`

interface ShapeProps {
  kind: MarkKind
  points: readonly Point[]
  look: Look
  text: string
  pencil: boolean
  number: number | null
  rings?: readonly number[]
  /** What it measures, in words. */
  value?: string
  chosen: boolean
  drawn: Drawn
}

/** One mark, or what the hand is drawing at the moment. */
export function Shape(props: ShapeProps) {
  const { kind } = props
  if (kind === 'pin') return <Pin {...props} />
  if (kind === 'symbol') return <Sign {...props} />
  if (kind === 'count') return <Count {...props} />
  if (kind === 'highlight' && props.look.symbol) return <LinedWords {...props} ink={inkOf(props)} />
  return <Outline {...props} />
}

function inkOf({ pencil, look, drawn }: ShapeProps): string {
  return pencil ? PENCIL : (drawn.with.inks[look.colour ?? 'red'] ?? PENCIL)
}

/** What a closed shape is filled with: a highlight all of it, an area and what is chosen faintly. */
function fillOf({ kind, look, chosen, drawn }: ShapeProps, ink: string) {
  if (kind === 'highlight') return { fill: ink, fillOpacity: 1, pointerEvents: 'all' as const }
  const own = (look.fill && drawn.with.inks[look.fill]) || 'none'
  if (own !== 'none') return { fill: own, fillOpacity: 0.25, pointerEvents: 'all' as const }
  const faint = chosen || kind === 'area'
  return { fill: faint ? ink : 'none', fillOpacity: 0.08, pointerEvents: 'none' as const }
}

function lineOf({ kind, look, pencil, chosen, drawn }: ShapeProps) {
  const weight = (look.weight_mm ?? 0.5) * drawn.perMm
  return {
    strokeOpacity: kind === 'highlight' || (kind === 'text' && !chosen) ? 0 : 1,
    strokeDasharray: dashes(pencil || !!look.dashed, drawn.perMm),
    style: { strokeWidth: `max(${weight}px, calc(var(--unit) * ${chosen ? 2.6 : 1.3}px))` },
  }
}

function Outline(props: ShapeProps) {
  const { kind, points, look, drawn, text } = props
  const ink = inkOf(props)
  const path = pathOf(props)
  return (
    <g opacity={look.opacity}>
      <path
        d={path}
        fill="none"
        stroke="transparent"
        pointerEvents={kind === 'highlight' || WRITTEN.has(kind) ? 'all' : 'stroke'}
        style={{ strokeWidth: `calc(var(--unit) * 12px)` }}
      />
      <path
        d={path}
        {...fillOf(props, ink)}
        fillRule="evenodd"
        stroke={ink}
        strokeLinejoin="round"
        strokeLinecap="round"
        {...lineOf(props)}
      />
      {props.value && <Value {...props} ink={ink} words={props.value} />}
      {WRITTEN.has(kind) && (
        <Written kind={kind} points={points} look={look} text={text} ink={ink} drawn={drawn} />
      )}
    </g>
  )
}

function pathOf({ kind, points, look, drawn, rings }: ShapeProps): string {
  const measured = kind === 'distance' || kind === 'path'
  const end = measured ? drawn.with.tick_mm : Math.max(3, 6 * (look.weight_mm ?? 0))
  return shapePath(kind, points, drawn.with.cloud_arc_mm * drawn.perMm, end * drawn.perMm, rings)
}

function dashes(on: boolean, perMm: number): string | undefined {
  return on ? `${2.4 * perMm} ${1.4 * perMm}` : undefined
}

/** The value of a measure, upright on a ground of paper; never smaller on the screen than can be read. */
function Value({ kind, points, rings, drawn, ink, words }: ShapeProps & { ink: string; words: string }) {
  const [x, y] = valueAt(kind, points, rings ?? [])
  const size = drawn.with.value_mm * drawn.perMm
  return (
    <text
      x={x}
      y={y}
      textAnchor="middle"
      dominantBaseline="central"
      pointerEvents="none"
      fontWeight={700}
      fill={ink}
      stroke="#fffdf8"
      strokeLinejoin="round"
      paintOrder="stroke"
      style={{
        fontSize: `max(${size}px, calc(var(--unit) * 12px))`,
        strokeWidth: `max(${size * 0.3}px, calc(var(--unit) * 3.5px))`,
      }}
    >
      {words}
    </text>
  )
}

interface WrittenProps {
  kind: MarkKind
  points: readonly Point[]
  look: Look
  text: string
  ink: string
  drawn: Drawn
}

/** Text that wraps in its box; a stamp's is large, in the middle. */
function Written({ kind, points, look, text, ink, drawn }: WrittenProps) {
  const [left, upper, right, lower] = extent(points.slice(0, 2))
  const size = (look.type_mm ?? 3.5) * drawn.perMm
  const stamp = kind === 'stamp'
  return (
    <foreignObject
      x={left}
      y={upper}
      width={right - left}
      height={Math.max(1, lower - upper)}
      pointerEvents="none"
    >
      <div
        className={`size-full overflow-hidden break-words whitespace-pre-wrap ${stamp ? 'flex items-center justify-center text-center font-bold' : ''}`}
        style={{ color: ink, fontSize: size, lineHeight: 1.25, padding: size * 0.3 }}
      >
        {text}
      </div>
    </foreignObject>
  )
}

/** A small tag with its number; its corner stands on the place. */
function Pin(props: ShapeProps) {
  const { points, pencil, number, chosen } = props
  const [x, y] = points[0] ?? [0, 0]
  const ink = inkOf(props)
  const words = number === null ? '·' : String(number)
  const width = 15 + 5 * words.length
  return (
    <g className="pin-mark" stroke={ink} style={{ '--x': `${x}px`, '--y': `${y}px` } as CSSProperties}>
      <path
        d={`M0 0V-24H${width}V-9H5Z`}
        fill={pencil ? '#fffdf8' : ink}
        strokeLinejoin="round"
        strokeWidth={chosen ? 3 : 1.5}
        strokeDasharray={pencil ? '3 2' : undefined}
      />
      <text
        x={width / 2}
        y={-12.2}
        textAnchor="middle"
        fontSize={12}
        fontWeight={700}
        stroke="none"
        fill={pencil ? ink : '#fff'}
      >
        {words}
      </text>
    </g>
  )
}

/** Signs in a square of 2 by 2 around the middle. */
const SIGNS: Record<string, string> = {
  tick: 'M-0.7 0.05L-0.2 0.6L0.75 -0.6',
  cross: 'M-0.6 -0.6L0.6 0.6M0.6 -0.6L-0.6 0.6',
  question: 'M-0.4 -0.35A0.42 0.42 0 1 1 0.12 0.05Q0 0.12 0 0.3M0 0.62L0 0.64',
  attention: 'M0 -0.7L0.78 0.62L-0.78 0.62ZM0 -0.25L0 0.2M0 0.4L0 0.42',
  look: 'M-0.8 0Q0 -0.85 0.8 0Q0 0.85 -0.8 0ZM0.22 0A0.22 0.22 0 1 1 -0.22 0A0.22 0.22 0 1 1 0.22 0Z',
}

function Sign(props: ShapeProps) {
  const { points, look, pencil, chosen, drawn } = props
  const [x, y] = points[0] ?? [0, 0]
  const half = (drawn.with.symbol_mm / 2) * drawn.perMm
  return (
    <g transform={`translate(${x} ${y}) scale(${half})`} opacity={look.opacity}>
      <circle
        r={1}
        fill="#fffdf8"
        fillOpacity={0.8}
        stroke={inkOf(props)}
        strokeWidth={chosen ? 0.22 : 0.1}
        strokeDasharray={pencil ? '0.3 0.2' : undefined}
      />
      <path
        d={SIGNS[look.symbol ?? ''] ?? ''}
        fill="none"
        stroke={inkOf(props)}
        strokeWidth={0.2}
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </g>
  )
}

function Count(props: ShapeProps) {
  const { points, look, pencil, chosen, drawn } = props
  const half = (drawn.with.count_mm / 2) * drawn.perMm
  const ink = inkOf(props)
  return (
    <g opacity={look.opacity}>
      {points.map(([x, y], place) => (
        <g key={place} transform={`translate(${x} ${y}) scale(${half})`}>
          <circle
            r={1}
            fill={pencil ? '#fffdf8' : ink}
            stroke={ink}
            strokeWidth={chosen ? 0.35 : 0.15}
            strokeDasharray={pencil ? '0.4 0.3' : undefined}
          />
          <text y={0.36} textAnchor="middle" fontSize={1} fontWeight={700} fill={pencil ? ink : '#fff'}>
            {place + 1}
          </text>
        </g>
      ))}
    </g>
  )
}

interface RubberProps {
  gesture: Gesture
  pen: { kind: MarkKind; look: Look; text: string } | null
  /** What it would measure now, in words. */
  value: string
  points: readonly Point[] | null
  drawn: Drawn
}

/** What the hand is drawing, or the box with which it catches marks. */
export function Rubber({ gesture, pen, value, points, drawn }: RubberProps) {
  if (gesture.kind === 'lasso')
    return (
      <path
        d={shapePath('rectangle', [gesture.from, gesture.to], 1, 1)}
        fill="#6d2e4f"
        fillOpacity={0.08}
        stroke="#6d2e4f"
        style={{ strokeWidth: 'calc(var(--unit) * 1px)' }}
      />
    )
  if (!pen || !points?.length) return null
  return (
    <g pointerEvents="none" data-testid="measuring">
      <Shape {...pen} points={points} value={value} pencil number={null} chosen={false} drawn={drawn} />
    </g>
  )
}
