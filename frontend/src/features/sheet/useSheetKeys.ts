import { useKeys } from '../../ui/keys'
import type { Acts } from './marks/useActs'
import type { Hand } from './marks/useHand'
import type { Pen } from './marks/usePens'

interface Props {
  hand: Hand
  acts: Acts
  pens: readonly Pen[]
  mayMark: boolean
  ink: () => void
  revision: (step: number) => void
  fit: () => void
  zoom: (factor: number) => void
  chooseAll: () => void
  find: () => void
  measure: () => void
  compare: () => void
  turn: () => void
  sheet: (step: number) => void
}

/** The keys of the sheet. */
export function useSheetKeys({ hand, acts, pens, mayMark, ...on }: Props) {
  const roll = Object.fromEntries(
    pens.slice(0, 9).map((pen, place) => [String(place + 1), () => hand.take(pen)]),
  )
  // What comes back is not new: the keys stay with the sheet, not with its text.
  const step = (act: () => void) => () => {
    hand.settle()
    act()
  }
  const marking: Record<string, () => void> = {
    ...roll,
    p: on.ink,
    h: hand.nextHandle,
    Delete: hand.remove,
    'Ctrl+a': on.chooseAll,
    'Ctrl+c': hand.copy,
    'Ctrl+v': hand.paste,
    'Ctrl+z': step(acts.undo),
    'Ctrl+Shift+z': step(acts.redo),
    'Ctrl+y': step(acts.redo),
    ...(hand.pen && { Enter: hand.enter, Backspace: hand.back }),
  }
  useKeys({
    ...(mayMark && marking),
    '/': on.find,
    m: on.measure,
    c: on.compare,
    r: on.turn,
    ',': () => on.sheet(-1),
    '.': () => on.sheet(1),
    f: on.fit,
    '+': () => on.zoom(1.4),
    '-': () => on.zoom(1 / 1.4),
    '[': () => on.revision(-1),
    ']': () => on.revision(1),
    Escape: hand.escape,
    ArrowLeft: () => hand.nudge(-1, 0),
    ArrowRight: () => hand.nudge(1, 0),
    ArrowUp: () => hand.nudge(0, -1),
    ArrowDown: () => hand.nudge(0, 1),
  })
}
