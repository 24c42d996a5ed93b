import { useState, type ReactNode } from 'react'

import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Dialog } from '../../ui/Dialog'
import { Select, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { countFindings, FIELD_WORDS, weightOf, type Counted, type Table } from './useTable'
import type { Field } from './useIntake'
import { useField, useKept } from '../../ui/useKept'

const WEIGHTS = [
  ['all', 'All'],
  ['stop', 'Stop'],
  ['look', 'Look'],
  ['fine', 'Fine'],
  ['same', 'Same'],
] as const

interface Props {
  table: Table
  onSendBack: () => void
  onDiscard: () => void
  children: ReactNode
}

/** What is shown, and what can be done to many files at once. */
export function Toolbar({ table, onSendBack, onDiscard, children }: Props) {
  const [finding, setFinding] = useState(false)
  const counted = countFindings(table.open)
  const code = table.shown.startsWith('code:') ? table.shown.slice(5) : ''
  const mendable = counted.find((each) => each.code === code)
  const count = (weight: string) =>
    weight === 'all' ? table.open.length : table.open.filter((each) => weightOf(each) === weight).length
  const marked = table.marked.size
  return (
    <div className="flex min-h-10 flex-wrap items-center gap-x-2 gap-y-1 border-b border-line bg-surface px-3 py-1">
      <div role="group" aria-label="Show" className="flex flex-wrap">
        {WEIGHTS.map(([key, words]) => (
          <button
            key={key}
            type="button"
            aria-pressed={table.shown === key}
            className={`h-6 border border-line px-2 text-note first:rounded-l-[3px] last:rounded-r-[3px] not-first:border-l-0 ${table.shown === key ? 'bg-plum font-semibold text-on-plum' : 'hover:bg-paper'}`}
            onClick={() => table.show(key)}
          >
            {words} <span className="code">{count(key)}</span>
          </button>
        ))}
      </div>
      <Select
        label="Filter by finding"
        hideLabel
        className="w-[210px]"
        value={code}
        onChange={(next) => table.show(next ? `code:${next}` : 'all')}
        choices={[
          { code: '', words: 'Any finding' },
          ...counted.map((each) => ({ code: each.code, words: `${each.name} (${each.count})` })),
        ]}
      />
      {mendable && mendable.mends > 0 && (
        <Button small look="act" busy={table.busy} onClick={() => table.mend(table.rows, code)}>
          {mendWords(mendable)}
        </Button>
      )}
      <Button small onClick={() => setFinding(true)}>
        Find and replace
      </Button>
      {children}
      <span className="flex-1" />
      {marked > 0 && (
        <>
          <span className="text-list text-second">{marked} marked</span>
          <Button small onClick={onSendBack}>
            Send back
          </Button>
          <Button small onClick={onDiscard}>
            Discard
          </Button>
        </>
      )}
      {finding && <FindReplace table={table} onClose={() => setFinding(false)} />}
    </div>
  )
}

function mendWords({ code, mends }: Counted): string {
  if (code === 'older_than_current') return `File ${mends} as history`
  return `Take ${mends === 1 ? 'the mend' : `all ${mends} mends`}`
}

/** Says before it happens how many cells would change. */
function FindReplace({ table, onClose }: { table: Table; onClose: () => void }) {
  const form = useKept('arrivals-replace', table.open[0]?.id ?? '')
  const [field, setField] = useField<Field>(form, 'field', 'title')
  const [find, setFind] = useField(form, 'find', '')
  const [by, setBy] = useField(form, 'by', '')
  const [exact, setExact] = useField(form, 'exact', false)
  const hits = table.found(field, find, exact)
  const over = table.marked.size
    ? `the ${counted(table.marked.size, 'marked file')}`
    : `the ${counted(table.rows.length, 'file')} shown`
  return (
    <Dialog title="Find and replace" about={`In one column of ${over}.`} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          table.replace(field, find, by, exact, () => {
            form.drop()
            onClose()
          })
        }}
      >
        <Select
          label="Column"
          value={field}
          onChange={(next) => setField(next as Field)}
          choices={Object.entries(FIELD_WORDS).map(([code, words]) => ({ code, words }))}
        />
        <TextField keep={form} label="Find" value={find} onChange={(event) => setFind(event.target.value)} />
        <TextField
          keep={form}
          label="Replace by"
          value={by}
          onChange={(event) => setBy(event.target.value)}
        />
        <Checkbox label="Capitals as typed" checked={exact} onChange={setExact} />
        <ErrorNote error={table.error} />
        <div className="flex items-center justify-end gap-2">
          <span role="status" className="flex-1 text-second">
            {find && `${hits} ${hits === 1 ? 'cell changes' : 'cells change'}`}
          </span>
          <Button onClick={onClose}>Close</Button>
          <Button look="act" type="submit" busy={table.busy} why={!hits && 'Nothing would change.'}>
            Replace in {hits}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
