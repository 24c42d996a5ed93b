import { keepPreviousData, useInfiniteQuery, type QueryKey } from '@tanstack/react-query'

/** A part of a list: its lines, and how many there are in all. */
interface Page<Row> {
  lines: Row[]
  total: number
}

/** A list that is fetched a page after the other, as it is scrolled; `ask` is given the first line wanted, from 0. */
export function usePages<Row, Of extends Page<Row>>(
  queryKey: QueryKey,
  ask: (start: number) => Promise<Of & Page<Row>>,
) {
  const list = useInfiniteQuery({
    queryKey,
    queryFn: ({ pageParam }) => ask(pageParam),
    initialPageParam: 0,
    getNextPageParam: (page, all) => {
      const here = all.reduce((count, each) => count + each.lines.length, 0)
      return here < page.total && page.lines.length > 0 ? here : undefined
    },
    placeholderData: keepPreviousData,
  })
  const [first] = list.data?.pages ?? []
  const rows = list.data?.pages.flatMap((page) => page.lines) ?? []
  const more = () => {
    if (list.hasNextPage && !list.isFetchingNextPage) void list.fetchNextPage()
  }
  return { list, rows, first, total: first?.total ?? rows.length, more }
}
