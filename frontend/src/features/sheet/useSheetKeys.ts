import { useKeys } from '../../ui/keys'
import type { OpenSheet } from './useOpenSheet'
import type { useSheetTravel } from './useSheetTravel'

type Keys = Record<string, () => void>

/** The keys of the sheet. */
export function useSheetKeys(open: OpenSheet, travel: ReturnType<typeof useSheetTravel>) {
  const { hand, panes, view } = open
  useKeys({
    ...(open.sheet.may_mark && markingKeys(open)),
    '/': () => panes.setBeside('find'),
    m: () => panes.flip('measure'),
    c: travel.compare,
    r: () => view.current?.turn(),
    ',': () => travel.along(-1),
    '.': () => travel.along(1),
    f: () => view.current?.fit(),
    '+': () => view.current?.zoomBy(1.4),
    '-': () => view.current?.zoomBy(1 / 1.4),
    '[': () => travel.revision(-1),
    ']': () => travel.revision(1),
    Escape: hand.escape,
    ArrowLeft: () => hand.nudge(-1, 0),
    ArrowRight: () => hand.nudge(1, 0),
    ArrowUp: () => hand.nudge(0, -1),
    ArrowDown: () => hand.nudge(0, 1),
  })
}

function markingKeys({ hand, acts, marks, pens }: OpenSheet): Keys {
  const roll = (pens.rolls.data?.own ?? []).slice(0, 9)
  // What comes back is not new: the keys stay with the sheet, not with its text.
  const step = (act: () => void) => () => {
    hand.settle()
    act()
  }
  return {
    ...Object.fromEntries(roll.map((pen, place) => [String(place + 1), () => hand.take(pen)])),
    p: marks.ink,
    h: hand.nextHandle,
    Delete: hand.remove,
    'Ctrl+a': () => hand.choose(marks.here.map((mark) => mark.id)),
    'Ctrl+c': hand.copy,
    'Ctrl+v': hand.paste,
    'Ctrl+z': step(acts.undo),
    'Ctrl+Shift+z': step(acts.redo),
    'Ctrl+y': step(acts.redo),
    ...(hand.pen && { Enter: hand.enter, Backspace: hand.back }),
  }
}
