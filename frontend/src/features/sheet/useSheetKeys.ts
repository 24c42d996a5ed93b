import { useKeys, type Keys } from '../../ui/keys'
import { setRoom } from './room/roomState'
import type { Room } from './room/useRoom'
import type { OpenSheet } from './useOpenSheet'
import type { useSheetTravel } from './useSheetTravel'

/** Millimetres of paper that the arrows move a mark by, and with Shift. */
const SMALL = 1
const LARGE = 10

/** The keys of the sheet. */
export function useSheetKeys(open: OpenSheet, travel: ReturnType<typeof useSheetTravel>) {
  const { hand, panes, view } = open
  useKeys({
    ...(open.sheet.may_mark && !open.wordsOnly && markingKeys(open)),
    '/': ['find on the sheet', () => panes.setBeside('find')],
    m: ['measure', () => panes.flip('measure')],
    ...(open.sheet.let_in ? {} : { c: ['compare', travel.compare] as const }),
    ...(open.room?.open && roomKeys(open.room)),
    r: ['turn the sheet', () => view.current?.turn()],
    ',': ['the sheet before in the list', () => travel.along(-1)],
    '.': ['the next sheet in the list', () => travel.along(1)],
    '[': ['the older revision', () => travel.revision(-1)],
    ']': ['the newer revision', () => travel.revision(1)],
    f: ['fit the sheet', () => view.current?.fit()],
    '+': ['nearer', () => view.current?.zoomBy(1.4)],
    '-': ['farther', () => view.current?.zoomBy(1 / 1.4)],
    Escape: open.followed
      ? ['stop following', open.stopFollowing]
      : ['put the pen down, choose nothing', hand.escape],
    ...arrows('', `move the mark chosen by ${SMALL} mm, or the sheet`, SMALL, hand.nudge),
    ...arrows('Shift+', `move it by ${LARGE} mm`, LARGE, hand.nudge),
  })
}

function roomKeys({ frames }: Room): Keys {
  return { o: ['where others look', () => setRoom({ frames: !frames, framed: '' })] }
}

function arrows(before: string, words: string, by: number, nudge: (x: number, y: number) => void): Keys {
  return {
    [`${before}ArrowLeft`]: [words, () => nudge(-by, 0)],
    [`${before}ArrowRight`]: [words, () => nudge(by, 0)],
    [`${before}ArrowUp`]: [words, () => nudge(0, -by)],
    [`${before}ArrowDown`]: [words, () => nudge(0, by)],
  }
}

function markingKeys({ hand, acts, marks, pens, room }: OpenSheet): Keys {
  const roll = (pens.rolls.data?.own ?? []).slice(0, 9)
  // What comes back is not new: the keys stay with the sheet, not with its text.
  const step = (act: () => void) => () => {
    hand.settle()
    act()
  }
  const chosen = marks.pencil.filter((mark) => hand.chosen.includes(mark.id))
  const bound: Keys = {
    ...Object.fromEntries(
      roll.map((pen, place) => [String(place + 1), [`the pen ${pen.name}`, () => hand.take(pen)]] as const),
    ),
    p: room?.open
      ? ['draw in ink, or in pencil', () => setRoom({ ink: !room.ink })]
      : [
          'ink the pencil marks chosen, or all of them',
          () => marks.ink(chosen.length ? chosen : marks.pencil),
        ],
    h: ['the next corner of the mark', hand.nextHandle],
    Delete: ['take the mark chosen away', hand.remove],
    'Ctrl+a': ['choose every mark of the page', () => hand.choose(marks.here.map((mark) => mark.id))],
    'Ctrl+c': ['copy the marks chosen', hand.copy],
    'Ctrl+v': ['put copied marks here', hand.paste],
    'Ctrl+z': ['undo', step(acts.undo)],
    'Ctrl+Shift+z': ['do it again', step(acts.redo)],
    'Ctrl+y': ['do it again', step(acts.redo)],
  }
  if (!hand.pen) return bound
  return {
    ...bound,
    Enter: ['set a corner, or end what is drawn', hand.enter],
    Backspace: ['take the last corner back', hand.back],
  }
}
