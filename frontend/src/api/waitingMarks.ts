import type { Schemas } from './client'

type Mark = Schemas['Mark']
type NewMark = Schemas['NewMark']

/** Marks that were drawn and are not answered yet: shown at once, and as waiting while the line is down. */
export interface WaitingDraw {
  key: string
  marks: readonly NewMark[]
  /** The line is down. */
  held: boolean
}

const HEAD = 'waiting '

/** Whether a mark is only on its way to the server. */
export const isWaiting = (mark: Pick<Mark, 'id'>) => mark.id.startsWith(HEAD)

/** As they will be, as far as that is known here. */
export function shownWaiting(
  draws: readonly WaitingDraw[],
  author: Schemas['Author'],
  drawnAt: string,
): Mark[] {
  return draws.flatMap(({ key, marks }) =>
    marks.map((mark, place) => ({
      ...asMark(mark, `${HEAD}${key} ${place}`),
      author,
      drawn_at: drawnAt,
    })),
  )
}

function asMark(mark: NewMark, id: string): Omit<Mark, 'author' | 'drawn_at'> {
  return {
    id,
    thread_id: id,
    version: 0,
    page: mark.page,
    kind: mark.kind,
    points: mark.points,
    rings: mark.rings ?? [],
    look: mark.look ?? {},
    text: mark.text ?? '',
    label: mark.label ?? '',
    discipline: mark.discipline ?? '',
    measured: null,
    pin_number: null,
    state: 'open',
    meant_for: null,
    locked: false,
    rank: 0,
    mine: true,
    may_change: false,
    inked_at: null,
    readers: [],
    session_id: '',
    session: '',
    may_open: false,
    replies: [],
    first_place: null,
    touched: null,
    links: [],
    sound: true,
  }
}
