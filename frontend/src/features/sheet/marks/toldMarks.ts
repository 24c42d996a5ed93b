import type { Schemas } from '../../../api/client'

type Mark = Schemas['Mark']

/**
 * The marks of a sheet with those that an event has brought, in the order in which they lie over each other; null where
 * only the server can say that order, or what is told is not of this list.
 */
export function withTold(
  marks: readonly Mark[],
  told: readonly Mark[],
  gone: readonly string[],
): Mark[] | null {
  const away = new Set(gone)
  let now: Mark[] | null = marks.filter((mark) => !away.has(mark.id))
  for (const mark of told) now = now && withOne(now, mark)
  return now
}

function withOne(marks: Mark[], mark: Mark): Mark[] | null {
  const known = marks.find((each) => each.id === mark.id)
  if (known && known.version > mark.version) return marks
  if (known?.rank === mark.rank) return marks.map((each) => (each.id === mark.id ? mark : each))
  // One that was carried here lies where it was put down here, and was drawn long before.
  if (mark.first_place) return null
  const others = marks.filter((each) => each.id !== mark.id)
  if (others.some((each) => each.rank === mark.rank && (each.drawn_at === mark.drawn_at || each.first_place)))
    return null
  const above = others.findIndex((each) => isAbove(each, mark))
  return above < 0 ? [...others, mark] : [...others.slice(0, above), mark, ...others.slice(above)]
}

function isAbove(one: Mark, other: Mark): boolean {
  return one.rank === other.rank ? one.drawn_at > other.drawn_at : one.rank > other.rank
}
