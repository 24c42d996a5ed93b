import { Button } from '../../../ui/Button'
import { Following } from '../../../ui/Following'
import { LettersAbout } from '../../../ui/LettersAbout'
import { LinkedMarks } from '../../../ui/LinkedMarks'
import { useSheet } from '../sheetContext'
import type { OpenSheet } from '../useOpenSheet'
import { KIND_WORDS } from './KindIcon'
import type { Mark } from './useMarks'
import type { Pen } from './usePens'

/** What else can be done with a mark: a hole in it, a pen of it, following it; and what leads to it. */
export function MarkTools({ mark }: { mark: Mark }) {
  const open = useSheet()
  return (
    <>
      {mark.may_change && mark.kind === 'area' && (
        <Button small className="mt-2 mr-2" onClick={() => cutHole(open, mark)}>
          Cut out a hole
        </Button>
      )}
      {mark.inked_at && <LinkedMarks kind="thread" target={mark.thread_id} />}
      {mark.inked_at && <LettersAbout kind="thread" target={mark.thread_id} words="this mark" />}
      <div className="mt-2 flex flex-wrap items-start gap-2">
        {open.sheet.may_mark && (
          <Button small onClick={() => keepAsPen(open, mark)}>
            Make a pen of it
          </Button>
        )}
        {mark.inked_at && <Following kind="thread" target={mark.thread_id} words="this mark" />}
      </div>
    </>
  )
}

function penOf(mark: Mark): Pen {
  const words = mark.kind === 'stamp' ? mark.text : ''
  const { kind, look, label, discipline } = mark
  const name = label || words.slice(0, 40) || `${KIND_WORDS[kind]}, ${look.colour}`
  return { name, kind, look, label, text: words, discipline, ink: '' }
}

function keepAsPen({ pens, panes }: OpenSheet, mark: Mark) {
  if (!pens.rolls.data) return
  pens.keep(false, (now) => [...now, penOf(mark)])
  panes.setRoll(true)
}

/** The next outline that is drawn is cut out of an area. */
function cutHole({ hand, acts }: OpenSheet, mark: Mark) {
  const pen = {
    name: 'Hole',
    kind: 'area',
    look: mark.look,
    label: '',
    text: '',
    discipline: '',
    ink: '',
  } as const
  hand.take(pen, (hole) =>
    acts.change([
      {
        mark,
        to: ({ points, rings }) => ({
          points: [...points, ...hole],
          rings: [...(rings.length ? rings : [points.length]), hole.length],
        }),
      },
    ]),
  )
}
