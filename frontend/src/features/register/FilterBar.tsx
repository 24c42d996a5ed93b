import { ListFilter, X } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useDeferredValue, useEffect, useRef, useState } from 'react'

import { Button } from '../../ui/Button'
import { Select } from '../../ui/Field'
import { Input } from '../../ui/Input'
import { AttachedHere } from './attached/AttachedHere'
import { FilterEditor } from './FilterEditor'
import type { RegisterSearch } from './registerSearch'
import type { ColumnShown } from './useRegister'

interface Props {
  search: RegisterSearch
  change: (part: Partial<RegisterSearch>) => void
  columns: readonly ColumnShown[]
  /** Each filter in words, in their order, as the server says them. */
  words: readonly string[]
}

/** What is typed, told as it settles; what comes from elsewhere, a view or a link, takes its place. */
function useWords(words: string, tell: (words: string) => void) {
  const [typed, setTyped] = useState(words)
  const settled = useDeferredValue(typed)
  const told = useRef<string[]>([words])
  useEffect(() => {
    if (settled === told.current.at(-1)) return
    told.current.push(settled)
    tell(settled)
    // Only what is typed is told.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [settled])
  useEffect(() => {
    const place = told.current.indexOf(words)
    // One's own words come back after the typing has gone on; they are no news.
    if (place >= 0) told.current = told.current.slice(place)
    else {
      told.current = [words]
      setTyped(words)
    }
  }, [words])
  return [typed, setTyped] as const
}

/** What the list is narrowed to, in words; each can be changed or taken away. */
export function FilterBar({ search, change, columns, words }: Props) {
  const [typed, setTyped] = useWords(search.words ?? '', (words) => change({ words }))
  const filters = search.filters ?? []
  const put = (place: number, filter: string[] | null) => {
    const next = filters.map((each, at) => (at === place ? filter : each)).filter((each) => each !== null)
    if (filter && place === filters.length) next.push(filter)
    change({ filters: next })
  }
  const grouping = columns.filter((column) => column.groups)
  return (
    <div className="flex flex-wrap items-center gap-2 px-4 pb-2">
      <Input
        keep="passing"
        type="search"
        aria-label="Filter by number, title or field"
        placeholder="Number, title or field"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        className="w-[230px]"
      />
      {filters.map((filter, place) => (
        <Chip
          key={place}
          words={words[place] ?? '…'}
          filter={filter}
          columns={columns}
          onPut={(next) => put(place, next)}
        />
      ))}
      <AddFilter columns={columns} onPut={(filter) => put(filters.length, filter)} />
      <AttachedHere filters={filters} />
      <span className="ml-auto flex items-center gap-2">
        <Select
          hideLabel
          label="Group by"
          className="w-[150px]"
          value={search.group ?? ''}
          onChange={(group) => change({ group, shut: undefined })}
          choices={[
            { code: '', words: 'No groups' },
            ...grouping.map((column) => ({ code: column.key, words: `Groups: ${column.head}` })),
          ]}
        />
      </span>
    </div>
  )
}

const BOX = 'z-30 w-[320px] border border-second bg-surface p-3'

function AddFilter({
  columns,
  onPut,
}: {
  columns: readonly ColumnShown[]
  onPut: (filter: string[]) => void
}) {
  const [open, setOpen] = useState(false)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button>
          <ListFilter size={14} aria-hidden /> Filter
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className={BOX} sideOffset={4} align="start" aria-label="A new filter">
          <FilterEditor
            columns={columns}
            onDone={(filter) => {
              setOpen(false)
              onPut(filter)
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

interface ChipProps {
  words: string
  filter: string[]
  columns: readonly ColumnShown[]
  onPut: (filter: string[] | null) => void
}

function Chip({ words, filter, columns, onPut }: ChipProps) {
  const [open, setOpen] = useState(false)
  return (
    <span className="inline-flex h-8 max-w-[360px] items-center rounded-[3px] border border-slate bg-slate-tint text-slate">
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger asChild>
          <button type="button" className="min-h-6 truncate px-2 text-list" title={words}>
            {words}
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className={BOX} sideOffset={4} align="start" aria-label={`Change: ${words}`}>
            <FilterEditor
              columns={columns}
              filter={filter}
              onDone={(next) => {
                setOpen(false)
                onPut(next)
              }}
            />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <button
        type="button"
        aria-label={`Take the filter away: ${words}`}
        className="flex h-full items-center border-l border-slate/40 px-1.5 hover:bg-surface"
        onClick={() => onPut(null)}
      >
        <X size={14} aria-hidden />
      </button>
    </span>
  )
}
