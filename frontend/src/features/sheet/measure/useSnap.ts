import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState, type RefObject } from 'react'

import { api, unwrapAs, type Schemas } from '../../../api/client'
import { apply, inverse, type Affine, type Point } from '../../../domain/affine'
import { distance, type MarkKind } from '../../../domain/drawing'
import type { View } from '../SheetView'

/** Points of the page to a side of the squares in which corners are fetched. */
const CELL = 300
const REACH_PX = 9
const SNAPS: ReadonlySet<MarkKind> = new Set([
  'line',
  'arrow',
  'polyline',
  'polygon',
  'cloud',
  'rectangle',
  'distance',
  'path',
  'area',
  'perimeter',
  'angle',
])

/** The ends and crossings of the drawing's lines, by which a pen can catch hold; with Alt held it does not. */
export function useSnap(revisionId: string, page: number, toView: Affine, view: RefObject<View | null>) {
  const client = useQueryClient()
  const cells = useRef(new Map<string, readonly Point[]>())
  const [caught, setCaught] = useState<Point | null>(null)
  const held = useRef(new Set<string>())
  const toPage = inverse(toView)

  function cornersAround(at: Point): readonly Point[] {
    const [x, y] = [Math.floor(at[0] / CELL), Math.floor(at[1] / CELL)]
    const key = `${revisionId} ${page} ${x} ${y}`
    const known = cells.current.get(key)
    if (known) return known
    cells.current.set(key, [])
    const margin = REACH_PX * 4
    const query = {
      left: x * CELL - margin,
      low: y * CELL - margin,
      right: (x + 1) * CELL + margin,
      high: (y + 1) * CELL + margin,
    }
    client
      .fetchQuery({
        queryKey: ['corners', key],
        queryFn: () =>
          unwrapAs<Schemas['Corners']>(
            api.GET('/api/sheets/{revision_id}/corners/{page}', {
              params: { path: { revision_id: revisionId, page }, query },
            }),
          ),
        staleTime: Infinity,
      })
      // Without corners the pen goes where the hand is; that is no fault to stop for.
      .then(
        (found) => cells.current.set(key, found.points),
        () => undefined,
      )
    return []
  }

  return {
    caught,
    /** The nearest corner within reach, in view coordinates; otherwise the place itself. */
    snap: (at: Point, kind: MarkKind | undefined, off: boolean): Point => {
      if (off || !kind || !SNAPS.has(kind)) {
        if (caught) setCaught(null)
        return at
      }
      const reach = REACH_PX * (view.current?.pixel() ?? 0)
      const here = apply(toPage, at)
      let best: Point | null = null
      for (const corner of cornersAround(here))
        if (distance(corner, here) <= (best ? distance(best, here) : reach)) best = corner
      const seen = best && apply(toView, best)
      if (seen?.[0] !== caught?.[0] || seen?.[1] !== caught?.[1]) setCaught(seen)
      if (seen) held.current.add(String(seen))
      return seen ?? at
    },
    /** Whether the drawing itself says where these points are, and not the hand. */
    exact: (points: readonly Point[]) => points.every((each) => held.current.has(String(each))),
    forget: () => {
      held.current.clear()
      setCaught(null)
    },
  }
}

export type Snap = ReturnType<typeof useSnap>
