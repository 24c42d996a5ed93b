import type { Schemas } from '../../../api/client'
import type { Affine, Point } from '../../../domain/affine'
import { MarkShapes, Rubber, type Drawn } from '../../../ui/MarkShapes'
import { LOOK, type GuestPen } from './GuestPens'

interface Props {
  marks: readonly Schemas['Mark'][]
  page: number
  toView: Affine
  drawn: Drawn
  chosen: string
  pen: GuestPen | null
  /** What the hand is drawing. */
  rubber: Point[] | null
}

const NOBODY_HOLDS = new Map<string, never>()

/** The marks of a page that a guest sees, and what they are drawing on it. */
export function GuestDrawing({ marks, page, toView, drawn, chosen, pen, rubber }: Props) {
  return (
    <>
      <MarkShapes
        marks={marks.filter((mark) => mark.page === page)}
        toView={toView}
        drawn={drawn}
        chosen={new Set([chosen])}
        peeked=""
        held={NOBODY_HOLDS}
      />
      <Rubber
        gesture={{ kind: 'idle' }}
        pen={pen ? { kind: pen, look: LOOK, text: '' } : null}
        value=""
        points={rubber}
        drawn={drawn}
      />
    </>
  )
}
