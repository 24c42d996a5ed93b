import { ArrowDown, ArrowUp, X } from 'lucide-react'
import { useState } from 'react'

import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { IconButton } from '../../ui/IconButton'
import { Choice, Input } from '../../ui/Input'
import type { RegisterSearch } from './registerSearch'
import type { ColumnShown } from './useRegister'

interface Props {
  search: RegisterSearch
  columns: readonly ColumnShown[]
  usual: readonly string[]
  onDone: (part: Partial<RegisterSearch>) => void
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
              <li
                key={key}
                className={`flex h-9 items-center gap-2 border-b ${place === frozen - 1 ? 'border-b-2 border-plum' : 'border-line'}`}
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
                    value={width || column.width}
                    onChange={(event) =>
                      setChosen(
                        chosen.map((each, at) => (at === place ? [key, Number(event.target.value)] : each)),
                      )
                    }
                  />
                  px
                </label>
                <IconButton
                  label={`Move ${column.head} up`}
                  disabled={place === 0}
                  onClick={() => move(place, -1)}
                  icon={<ArrowUp size={14} />}
                />
                <IconButton
                  label={`Move ${column.head} down`}
                  disabled={place === chosen.length - 1}
                  onClick={() => move(place, 1)}
                  icon={<ArrowDown size={14} />}
                />
                <IconButton
                  label={`Leave ${column.head} out`}
                  disabled={chosen.length === 1}
                  onClick={() => setChosen(chosen.filter((_, at) => at !== place))}
                  icon={<X size={14} />}
                />
              </li>
            )
          })}
        </ol>
        <div>
          <p className="mb-1 text-note font-medium text-second">Others</p>
          <ul className="flex max-h-[330px] flex-wrap content-start gap-1.5 overflow-auto">
            {rest.map((column) => (
              <li key={column.key}>
                <Button small onClick={() => setChosen([...chosen, [column.key, 0]])}>
                  + {column.head}
                </Button>
              </li>
            ))}
          </ul>
          <label className="mt-4 block text-note font-medium text-second">
            Stay in view when scrolled sideways
            <Choice
              className="mt-0.5 w-full"
              value={frozen}
              onChange={(event) => setFrozen(Number(event.target.value))}
            >
              <option value={0}>none</option>
              {chosen.slice(0, 4).map(([key], place) => (
                <option key={key} value={place + 1}>
                  up to {byKey.get(key)?.head}
                </option>
              ))}
            </Choice>
          </label>
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
