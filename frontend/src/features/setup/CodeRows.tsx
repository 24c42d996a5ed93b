import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react'

import { Button } from '../../ui/Button'
import { IconButton } from '../../ui/IconButton'
import { Input } from '../../ui/Input'
import type { Keep } from '../../ui/useKept'
import { useNewLine } from '../../ui/useNewLine'

export interface CodeWords {
  code: string
  words: string
}

interface Props {
  keep: Keep
  /** What one of them is, in the singular: status, code. */
  what: string
  rows: readonly CodeWords[]
  onChange: (rows: CodeWords[]) => void
  extra?: (row: number) => React.ReactNode
  blank?: () => CodeWords
  disabled?: boolean
}

/** Codes with their meaning, in an order: typed in place, moved, added, taken away. Pasting two columns adds many. */
export function CodeRows({ keep, what, rows, onChange, extra, blank, disabled = false }: Props) {
  const change = (place: number, part: Partial<CodeWords>) =>
    onChange(rows.map((row, at) => (at === place ? { ...row, ...part } : row)))

  function move(place: number, by: number) {
    const next = [...rows]
    const [row] = next.splice(place, 1)
    if (row) next.splice(place + by, 0, row)
    onChange(next)
  }

  const { list, added } = useNewLine<HTMLUListElement>()

  function paste(place: number, text: string): boolean {
    const lines = text.split(/\r?\n/).filter((line) => line.trim())
    if (lines.length < 2) return false
    const added = lines.map((line) => {
      const [code = '', ...rest] = line.split(/\t|;|, ?| - /)
      return { ...(blank?.() ?? {}), code: code.trim().toUpperCase(), words: rest.join(' ').trim() }
    })
    const kept = rows.filter((row, at) => at !== place || row.code || row.words)
    onChange([...kept.slice(0, place), ...added, ...kept.slice(place)])
    return true
  }

  return (
    <div>
      <ul ref={list}>
        {rows.map((row, place) => (
          <li key={place} className="flex flex-wrap items-center gap-1.5 py-0.5">
            <Input
              keep={keep}
              small
              aria-label={`Code of ${what} ${place + 1}`}
              className="code w-[60px] font-bold"
              value={row.code}
              disabled={disabled}
              onChange={(event) => change(place, { code: event.target.value.toUpperCase() })}
              onPaste={(event) => {
                if (paste(place, event.clipboardData.getData('text'))) event.preventDefault()
              }}
            />
            <Input
              keep={keep}
              small
              aria-label={`Meaning of ${what} ${row.code || place + 1}`}
              className="min-w-[120px] flex-1"
              value={row.words}
              disabled={disabled}
              onChange={(event) => change(place, { words: event.target.value })}
            />
            {extra?.(place)}
            {!disabled && (
              <span className="flex shrink-0 text-second">
                <IconButton
                  label={`Move ${row.code} up`}
                  disabled={place === 0}
                  onClick={() => move(place, -1)}
                  icon={<ArrowUp size={14} />}
                />
                <IconButton
                  label={`Move ${row.code} down`}
                  disabled={place === rows.length - 1}
                  onClick={() => move(place, 1)}
                  icon={<ArrowDown size={14} />}
                />
                <IconButton
                  label={`Take ${row.code} away`}
                  onClick={() => onChange(rows.filter((_, at) => at !== place))}
                  icon={<Trash2 size={14} />}
                />
              </span>
            )}
          </li>
        ))}
      </ul>
      {!disabled && (
        <Button
          small
          className="mt-1"
          onClick={() => {
            added()
            onChange([...rows, blank?.() ?? { code: '', words: '' }])
          }}
        >
          Add a {what}
        </Button>
      )}
    </div>
  )
}
