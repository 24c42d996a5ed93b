import {
  Check,
  Circle,
  CircleAlert,
  CircleHelp,
  Cloud,
  Eye,
  Hash,
  Highlighter,
  MessageSquareText,
  MoveUpRight,
  Pentagon,
  Slash,
  Square,
  Stamp,
  Type,
  Waypoints,
  X,
  createLucideIcon,
  PencilLine,
  Angle,
  Ruler,
  Spline,
  Strikethrough,
  TextCursorInput,
  Underline,
  SquareDashed,
  VectorSquare,
  type LucideIcon,
} from 'lucide-react'

import type { MarkKind } from '../../../domain/drawing'

/** The tag that a pin is on the sheet. */
const Tag = createLucideIcon('tag-on-a-place', [['path', { d: 'M4 21V4h16v11H8Z', key: 'tag' }]])

const KINDS: Record<Exclude<MarkKind, 'symbol'>, LucideIcon> = {
  cloud: Cloud,
  rectangle: Square,
  ellipse: Circle,
  line: Slash,
  arrow: MoveUpRight,
  polyline: Waypoints,
  polygon: Pentagon,
  freehand: PencilLine,
  highlight: Highlighter,
  text: Type,
  callout: MessageSquareText,
  pin: Tag,
  stamp: Stamp,
  count: Hash,
  distance: Ruler,
  path: Spline,
  area: VectorSquare,
  perimeter: SquareDashed,
  angle: Angle,
}
const SYMBOLS: Record<string, LucideIcon> = {
  tick: Check,
  cross: X,
  question: CircleHelp,
  attention: CircleAlert,
  look: Eye,
}

const MANNERS: Record<string, LucideIcon> = {
  underline: Underline,
  squiggly: Underline,
  strikeout: Strikethrough,
  insert: TextCursorInput,
}

export const KIND_WORDS: Record<MarkKind, string> = {
  cloud: 'Cloud',
  rectangle: 'Rectangle',
  ellipse: 'Ellipse',
  line: 'Line',
  arrow: 'Arrow',
  polyline: 'Polyline',
  polygon: 'Polygon',
  freehand: 'Freehand',
  highlight: 'Highlight',
  text: 'Text',
  callout: 'Callout',
  pin: 'Pin',
  stamp: 'Stamp',
  symbol: 'Symbol',
  count: 'Count',
  distance: 'Distance',
  path: 'Path',
  area: 'Area',
  perimeter: 'Perimeter',
  angle: 'Angle',
}

const MANNER_WORDS: Record<string, string> = {
  underline: 'Underlined',
  squiggly: 'Underlined by a wave',
  strikeout: 'Struck out',
  insert: 'To be put in',
}

/** A mark's kind in words, in its manner. */
export function kindWords(kind: MarkKind, symbol: string): string {
  return MANNER_WORDS[symbol] ?? KIND_WORDS[kind]
}

interface Props {
  kind: MarkKind
  symbol: string
  colour: string | undefined
}

/** The sign of a kind of mark, in its ink. */
export function KindIcon({ kind, symbol, colour }: Props) {
  const Icon = kind === 'symbol' ? (SYMBOLS[symbol] ?? Check) : (MANNERS[symbol] ?? KINDS[kind])
  return <Icon size={17} aria-hidden color={colour} />
}
