import { useNewLine } from '../../ui/useNewLine'

/** Rows of a part of the set-up that are typed in place: changed, taken away, added. `list` goes on their element. */
export function useRows<Row>(rows: readonly Row[], onChange: (rows: Row[]) => void, blank: Row) {
  const { list, added } = useNewLine<HTMLUListElement>()
  return {
    list,
    change: (place: number, part: Partial<Row>) =>
      onChange(rows.map((row, at) => (at === place ? { ...row, ...part } : row))),
    take: (place: number) => onChange(rows.filter((_, at) => at !== place)),
    add: () => {
      added()
      onChange([...rows, blank])
    },
  }
}
