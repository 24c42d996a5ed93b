import { ArrowDown, ArrowUp } from 'lucide-react'

import { Button } from './Button'
import { Select } from './Field'
import { MarkAll } from './MarkAll'
import type { SortedBy, TableProps } from './listTypes'

/** Above a list of slips: all of them marked, and by what they are sorted, which the heads of columns say elsewhere. */
export function SlipHead<Row>(props: TableProps<Row>) {
  const { columns, marked, onSort } = props
  const choices = columns
    .filter((column) => column.sorts)
    .map((column) => ({ code: column.key, words: column.head }))
  if (!marked && !(onSort && choices.length)) return null
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-[2] flex min-h-9 w-full shrink-0 items-center gap-2 border-b border-second/40 bg-surface px-2 text-note text-second"
    >
      {marked && (
        <div role="columnheader">
          <MarkAll {...props} />
        </div>
      )}
      {onSort && choices.length > 0 && <Order choices={choices} sorts={props.sorts} onSort={onSort} />}
    </div>
  )
}

interface OrderProps {
  choices: { code: string; words: string }[]
  sorts: readonly SortedBy[] | undefined
  onSort: (key: string, more: boolean) => void
}

function Order({ choices, sorts, onSort }: OrderProps) {
  const first = sorts?.[0]
  const Sign = first?.descending ? ArrowDown : ArrowUp
  return (
    <div role="columnheader" className="ml-auto flex items-center gap-1.5">
      <Select
        hideLabel
        label="Sorted by"
        value={first?.key ?? ''}
        onChange={(key) => key && onSort(key, false)}
        choices={first ? choices : [{ code: '', words: 'Sort by …' }, ...choices]}
      />
      {first && (
        <Button
          small
          aria-label={first.descending ? 'Falling; turn round' : 'Rising; turn round'}
          onClick={() => onSort(first.key, false)}
        >
          <Sign size={14} aria-hidden />
        </Button>
      )}
    </div>
  )
}
