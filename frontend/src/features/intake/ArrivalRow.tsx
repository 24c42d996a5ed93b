import { memo, useId, type ClipboardEvent, type KeyboardEvent } from 'react'

import { pastedLines } from '../../domain/columnEdits'
import { CellInput as Cell } from '../../ui/Input'
import { Weight } from '../../ui/Notes'
import type { Table } from './useTable'
import type { Arrival, Field } from './useIntake'
import { useField, useKept } from '../../ui/useKept'

export const TRACKS = '26px 66px 202px 56px 52px minmax(150px,1fr) minmax(170px,1.25fr)'

interface Props {
  arrival: Arrival
  place: number
  table: Pick<Table, 'type' | 'paste' | 'fill' | 'mark'>
  isMarked: boolean
  isOpen: boolean
  onOpen: (id: string) => void
  onRange: (place: number) => void
  /** Moves to the same field of another line. */
  onMove: (place: number, field: Field) => void
}

/** One file: its reading, which can be typed over, and its gravest finding; the panel has the rest. */
export const ArrivalRow = memo(function ArrivalRow(props: Props) {
  const { arrival, place, table, isMarked, isOpen, onOpen, onRange, onMove } = props
  const faulty = faultyFields(arrival)
  const cell = (field: Field, label: string, mono: boolean) => (
    <div role="gridcell">
      <CellInput
        of={`${arrival.id} ${field}`}
        label={`${label} of ${arrival.file_name}`}
        where={`${place}:${field}`}
        value={arrival[field]}
        faulty={faulty.has(field)}
        mono={mono}
        onSave={(value, done) => table.type(arrival, field, value, { done })}
        onPaste={(lines) => table.paste(arrival, field, lines)}
        onFill={(typed) => table.fill(field, arrival, typed)}
        onMove={(by) => onMove(place + by, field)}
      />
    </div>
  )
  return (
    <div
      role="row"
      aria-rowindex={place + 2}
      aria-selected={isMarked}
      className={`grid h-8 items-center border-b border-line/60 ${isOpen ? 'bg-plum-tint' : isMarked ? 'bg-slate-tint' : ''}`}
      style={{ gridTemplateColumns: TRACKS }}
    >
      <div role="gridcell" className="pl-2">
        <input
          type="checkbox"
          aria-label={`Mark ${arrival.file_name}`}
          checked={isMarked}
          className="block size-3.5 accent-plum"
          onClick={(event) => event.shiftKey && onRange(place)}
          onChange={(event) => table.mark([arrival.id], event.target.checked)}
        />
      </div>
      <div role="gridcell" className="px-1 text-list">
        {arrival.looking ? <Looking arrival={arrival} /> : <Weight weight={arrival.weight} />}
      </div>
      {cell('number', 'Number', true)}
      {cell('revision', 'Revision', true)}
      {cell('status', 'Status', true)}
      {cell('title', 'Title', false)}
      {/* Off the edge by which the panel is drawn. */}
      <div role="gridcell" className="min-w-0 pr-4">
        <button
          type="button"
          aria-expanded={isOpen}
          title={arrival.findings.map((each) => each.words).join('\n')}
          className="flex h-8 w-full items-center gap-1 px-2 text-left text-list hover:underline"
          onClick={() => onOpen(arrival.id)}
        >
          <span className="truncate">{whatIsFound(arrival)}</span>
          {arrival.findings.length > 1 && (
            <span className="shrink-0 text-second">+{arrival.findings.length - 1}</span>
          )}
        </button>
      </div>
    </div>
  )
})

const faultyFields = (arrival: Arrival) =>
  new Set(arrival.findings.filter((each) => each.weight === 'stop').map((each) => each.field))

function whatIsFound(arrival: Arrival): string {
  const work = arrival.given_up[0]
  if (work) return `Nod gave up ${work.doing} after ${work.tries} tries. Open this to have it tried again.`
  return arrival.findings[0]?.words ?? 'Nothing was found: it can be registered.'
}

function Looking({ arrival }: { arrival: Arrival }) {
  if (arrival.given_up.length) return <span className="font-semibold text-brick">Given up</span>
  if (!arrival.page_count) return <span className="text-second">Looking …</span>
  return (
    <span className="code text-note text-second" title="Pages read">
      {arrival.pages_read}/{arrival.page_count}
    </span>
  )
}

interface CellProps {
  of: string
  label: string
  where: string
  value: string
  faulty: boolean
  mono: boolean
  onSave: (value: string, done: () => void) => void
  onPaste: (lines: string[]) => void
  onFill: (typed: string) => void
  onMove: (by: number) => void
}

/** What is typed into a cell, and whether it is saved. */
function useCell({ of, label, value, onSave }: Pick<CellProps, 'of' | 'label' | 'value' | 'onSave'>) {
  const form = useKept('arrival-cell', of, label)
  const [typed, setTyped] = useField(form, 'typed', value)
  /** What stood there when the typing began, and what was typed when it was last sent. */
  const [before, setBefore] = useField<string | null>(form, 'before', null)
  const [sent, setSent] = useField<string | null>(form, 'sent', null)
  const changed = typed.trim() !== value
  const theirs = changed && before !== null && before !== value
  return {
    form,
    typed,
    changed,
    theirs,
    /** It was sent and did not come through, or somebody has come between. */
    stuck: changed && (sent !== null || theirs),
    type: (next: string) => {
      if (!changed) setBefore(value)
      setTyped(next)
    },
    save: (again: boolean) => {
      if (!changed) form.drop()
      else if (again || (sent !== typed && !theirs)) {
        setSent(typed)
        onSave(typed, form.drop)
      }
    },
  }
}

/**
 * A cell to type in: Enter or leaving it saves, Esc takes the old value back, arrows go up and down the column,
 * Ctrl+D fills down from here. Several lines that are pasted go into the cells below. What was typed and is not saved,
 * whatever came between, stays; if somebody else has filled the cell meanwhile, both are shown.
 */
function CellInput(props: CellProps) {
  const { label, where, value, faulty, mono, onPaste, onFill, onMove } = props
  const { form, typed, changed, theirs, stuck, type, save } = useCell(props)
  const note = useId()

  function onKey(event: KeyboardEvent<HTMLInputElement>) {
    const keys: Record<string, () => void> = {
      Enter: () => {
        save(true)
        onMove(event.shiftKey ? -1 : 1)
      },
      ArrowDown: () => onMove(1),
      ArrowUp: () => onMove(-1),
      Escape: form.drop,
    }
    const fills = event.key === 'd' && (event.ctrlKey || event.metaKey)
    const act = fills ? () => onFill(typed) : keys[event.key]
    if (!act) return
    event.preventDefault()
    event.stopPropagation()
    act()
  }

  function paste(event: ClipboardEvent) {
    const lines = pastedLines(event.clipboardData.getData('text'))
    if (lines.length < 2) return
    event.preventDefault()
    onPaste(lines)
  }

  return (
    <div className="group relative">
      <Cell
        keep={form}
        aria-label={label}
        aria-invalid={faulty}
        aria-describedby={stuck ? note : undefined}
        data-where={where}
        value={typed}
        title={typed}
        className={`${mono ? 'code' : ''} ${changed ? 'border-ochre bg-ochre-tint' : ''}`}
        onChange={(event) => type(event.target.value)}
        onBlur={() => save(false)}
        onKeyDown={onKey}
        onPaste={paste}
      />
      {stuck && <Stuck id={note} theirs={theirs ? value || 'nothing' : null} />}
    </div>
  )
}

/** Under the cell, while one is in it. */
function Stuck({ id, theirs }: { id: string; theirs: string | null }) {
  return (
    <p
      id={id}
      role="status"
      className="absolute top-6 left-0 z-10 hidden min-w-[180px] border border-ochre bg-surface px-1.5 py-0.5 text-note group-focus-within:block"
    >
      {theirs === null ? (
        'Not saved yet. Enter tries again, Esc takes it back.'
      ) : (
        <>
          Somebody has put <span className="code font-semibold">{theirs}</span> here. Yours is kept: Enter
          puts it, Esc leaves theirs.
        </>
      )}
    </p>
  )
}
