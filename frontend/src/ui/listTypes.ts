import type { ReactNode } from 'react'

export interface Column<Row> {
  key: string
  head: string
  /** A track of a CSS grid: `120px`, `minmax(160px, 1fr)`. Columns that stay in view need one in px. */
  width: string
  cell: (row: Row) => ReactNode
  sorts?: boolean
}

/** A part of a line where the list is slips of two lines: before all, at the end of the first line, or on the second. */
export interface SlipPart<Row> {
  key: string
  head: string
  at: 'what' | 'beside' | 'below'
  cell: (row: Row) => ReactNode
}

export interface SortedBy {
  key: string
  descending: boolean
}

export interface Group {
  key: string
  words: string
  count: number
}

/** Lines under headings: rows come in the order of the groups; a shut one shows its heading alone. */
export interface Grouping<Row> {
  groups: readonly Group[]
  shut: readonly string[]
  groupOf: (row: Row) => string
  onToggle: (key: string) => void
}

export interface Tail<Row> {
  rows: readonly Row[]
  /** End was pressed: the last lines are wanted. */
  onEnd: () => void
  /** The lines before the first of them are wanted. */
  onNearStart: () => void
}

export interface TableProps<Row> {
  label: string
  rows: readonly Row[]
  total?: number
  rowId: (row: Row) => string
  columns: readonly Column<Row>[]
  /** What a line shows on a phone, where the list is not scrolled sideways. */
  slips: readonly SlipPart<Row>[]
  openId?: string | undefined
  /** Space or a click: show the dossier. */
  onShow: (row: Row) => void
  /** Enter or a double click: go there. */
  onGo?: (row: Row) => void
  marked?: Pick<ReadonlySet<string>, 'has'>
  onMark?: (ids: string[], on: boolean) => void
  sorts?: readonly SortedBy[]
  /** `more` adds the column behind those that sort already. */
  onSort?: (key: string, more: boolean) => void
  onWidth?: (key: string, px: number) => void
  /** How many columns stay in view when the rest is scrolled sideways. */
  frozen?: number
  grouping?: Grouping<Row> | undefined
  onNearEnd?: () => void
  /** The last of `total` lines, where one went to the end before all were here. */
  tail?: Tail<Row>
  empty?: ReactNode
}
