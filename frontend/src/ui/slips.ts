import type { Column, SlipPart } from './listTypes'

interface Places {
  what: string
  beside?: readonly string[]
  below: readonly string[]
}

/** Which columns stand where when a list is slips, by their keys. */
export function slipsOf<Row>(columns: readonly Column<Row>[], places: Places): SlipPart<Row>[] {
  const put = (at: SlipPart<Row>['at']) => (key: string) =>
    columns.flatMap((column) =>
      column.key === key ? [{ key, head: column.head, at, cell: column.cell }] : [],
    )
  return [
    ...put('what')(places.what),
    ...(places.beside ?? []).flatMap(put('beside')),
    ...places.below.flatMap(put('below')),
  ]
}
