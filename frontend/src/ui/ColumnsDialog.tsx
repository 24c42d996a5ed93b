import { ArrowDown, ArrowUp, X } from 'lucide-react'
import { useState } from 'react'

import { Button } from './Button'
import { Dialog } from './Dialog'
import { IconButton } from './IconButton'
import { Choice, Input } from './Input'

/** What an address says of the columns of a list: in order, each with its width in px, 0 for the usual. */
export interface ColumnsChosen {
  columns?: [string, number][] | undefined
  /** How many stay in view when the list is scrolled sideways. */
  frozen?: number | undefined
}

interface Props {
  search: ColumnsChosen
  /** Widths in px. */
  columns: readonly { key: string; head: string; width: number }[]
  usual: readonly string[]
  onDone: (part: ColumnsChosen) => void
  onClose: () => void
}

/** Which columns, in which order, how wide, and which of them stay in view. */
export function ColumnsDialog({ search, columns, usual, onDone, onClose }: Props) {
  const [chosen, setChosen] = useState<[string, number][]>(
    search.columns ?? usual.map((key): [string, number] => [key, 0]),
  )
  const [frozen, setFrozen] = useState(search.frozen ?? 0)
  const byKey = new Map(columns.map((column) => [column.key, column]))
  const rest = columns.filter((column) => !chosen.some(([key]) => key === column.key))

  function move(place: number, step: number) {
    const next = [...chosen]
    const [taken] = next.splice(place, 1)
    if (taken) next.splice(place + step, 0, taken)
    setChosen(next)
  }

  return (
    <Dialog title="Columns" about="Which columns the list shows, in which order." open wide onClose={onClose}>
      <div className="grid grid-cols-[1fr_220px] gap-6">
        <ol className="flex flex-col" aria-label="Columns shown">
          {chosen.map(([key, width], place) => {
            const column = byKey.get(key)
            if (!column) return null
            return (
              <Chosen
                key={key}
                column={column}
                width={width || column.width}
                place={place}
                of={chosen.length}
                isLastFrozen={place === frozen - 1}
                onWidth={(px) => setChosen(chosen.map((each, at) => (at === place ? [key, px] : each)))}
                onMove={(step) => move(place, step)}
                onLeave={() => setChosen(chosen.filter((_, at) => at !== place))}
              />
            )
          })}
        </ol>
        <div>
          <Others columns={rest} onAdd={(key) => setChosen([...chosen, [key, 0]])} />
          <Frozen
            heads={chosen.slice(0, 4).map(([key]) => byKey.get(key)?.head ?? '')}
            frozen={frozen}
            onFrozen={setFrozen}
          />
        </div>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={() => onDone({ columns: undefined, frozen: undefined })}>The usual ones</Button>
        <Button look="act" onClick={() => onDone({ columns: chosen, frozen })}>
          Show these
        </Button>
      </div>
    </Dialog>
  )
}

interface ChosenProps {
  column: Props['columns'][number]
  width: number
  place: number
  of: number
  isLastFrozen: boolean
  onWidth: (px: number) => void
  onMove: (step: number) => void
  onLeave: () => void
}

function Chosen({ column, width, place, of, isLastFrozen, onWidth, onMove, onLeave }: ChosenProps) {
  return (
    <li
      className={`flex h-9 items-center gap-2 border-b ${isLastFrozen ? 'border-b-2 border-plum' : 'border-line'}`}
    >
      <span className="min-w-0 flex-1 truncate">{column.head}</span>
      <label className="flex items-center gap-1 text-note text-second">
        <Input
          keep="passing"
          small
          type="number"
          min={40}
          max={800}
          aria-label={`Width of ${column.head} in pixels`}
          className="w-[70px] text-right"
          value={width}
          onChange={(event) => onWidth(Number(event.target.value))}
        />
        px
      </label>
      <IconButton
        label={`Move ${column.head} up`}
        disabled={place === 0}
        onClick={() => onMove(-1)}
        icon={<ArrowUp size={14} />}
      />
      <IconButton
        label={`Move ${column.head} down`}
        disabled={place === of - 1}
        onClick={() => onMove(1)}
        icon={<ArrowDown size={14} />}
      />
      <IconButton
        label={`Leave ${column.head} out`}
        disabled={of === 1}
        onClick={onLeave}
        icon={<X size={14} />}
      />
    </li>
  )
}

interface FrozenProps {
  heads: readonly string[]
  frozen: number
  onFrozen: (count: number) => void
}

function Frozen({ heads, frozen, onFrozen }: FrozenProps) {
  return (
    <label className="mt-4 block text-note font-medium text-second">
      Stay in view when scrolled sideways
      <Choice
        className="mt-0.5 w-full"
        value={frozen}
        onChange={(event) => onFrozen(Number(event.target.value))}
      >
        <option value={0}>none</option>
        {heads.map((head, place) => (
          <option key={head} value={place + 1}>
            up to {head}
          </option>
        ))}
      </Choice>
    </label>
  )
}

interface OthersProps {
  columns: Props['columns']
  onAdd: (key: string) => void
}

function Others({ columns, onAdd }: OthersProps) {
  return (
    <>
      <p className="mb-1 text-note font-medium text-second">Others</p>
      <ul className="flex max-h-[330px] flex-wrap content-start gap-1.5 overflow-auto">
        {columns.map((column) => (
          <li key={column.key}>
            <Button small onClick={() => onAdd(column.key)}>
              + {column.head}
            </Button>
          </li>
        ))}
      </ul>
    </>
  )
}
