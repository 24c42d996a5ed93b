import { useState } from 'react'

import { apply, inverse, type Affine, type Point } from '../../domain/affine'
import { pairsText } from './asked'

const MOST = 3

/**
 * Places that both drawings show, pointed at in turns: one in the first, then the same in the second. They are kept in
 * millimetres of either page; the first is seen where it is laid at the moment.
 */
export function usePicking(moved: Affine | null) {
  const [picking, setPicking] = useState(false)
  const [pairs, setPairs] = useState<readonly (readonly [Point, Point])[]>([])
  const [waiting, setWaiting] = useState<Point | null>(null)

  function stop() {
    setPicking(false)
    setPairs([])
    setWaiting(null)
  }

  return {
    picking,
    pairs,
    waiting,
    enough: pairs.length > 1,
    begin: () => {
      stop()
      setPicking(true)
    },
    stop,
    /** A place in millimetres of the second's paper. Out of turn it replaces the one before, or waits. */
    pick: (side: 'first' | 'second', at: Point) => {
      if (side === 'first') setWaiting(at)
      else if (waiting && pairs.length < MOST) {
        setPairs([...pairs, [waiting, at]])
        setWaiting(null)
      }
    },
    /** For the address: the places of the first as they are on its own paper. */
    text: () => {
      const back = inverse(moved ?? [1, 0, 0, 1, 0, 0])
      return pairsText(pairs.map(([a, b]) => [apply(back, a), b]))
    },
  }
}

export type Picking = ReturnType<typeof usePicking>
