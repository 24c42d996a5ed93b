import { useMemo, useState } from 'react'

import { fillDown, pasteDown, replaceAll, type Cell } from '../../domain/columnEdits'
import { OPEN, useCorrect, type Arrival, type Correction, type Field } from './useIntake'

/** Which of the findings are shown: `all`, a weight, or `code:` and a finding's code. */
export type Shown = string

export interface Undo {
  words: string
  changes: Correction[]
}

export interface Table {
  /** Files still in Intake that the filter leaves, in the order of the batch. */
  rows: Arrival[]
  open: Arrival[]
  marked: ReadonlySet<string>
  mark: (ids: readonly string[], on: boolean) => void
  /** The marked files, or all that are shown where none is marked. */
  chosen: Arrival[]
  shown: Shown
  show: (next: Shown) => void
  error: unknown
  busy: boolean
  undo: Undo | null
  takeBack: () => void
  forgetUndo: () => void
  type: (arrival: Arrival, field: Field, value: string, more?: { taken?: string; done?: () => void }) => void
  /** A field by its key, also one without a column in the table. */
  take: (arrival: Arrival, field: string, value: string, taken: string) => void
  paste: (arrival: Arrival, field: Field, lines: string[]) => void
  /** Downwards from a line, or from the first; `typed` is what stands in its cell and is not saved yet. */
  fill: (field: Field, from?: Arrival, typed?: string) => void
  replace: (field: Field, find: string, by: string, exact: boolean, done: () => void) => number
  found: (field: Field, find: string, exact: boolean) => number
  mend: (arrivals: readonly Arrival[], code: string) => void
}

export const FIELD_WORDS: Record<Field, string> = {
  number: 'Number',
  revision: 'Revision',
  status: 'Status',
  title: 'Title',
}

/** The table's state and its acts; each act is one command to the server, and the last can be taken back. */
export function useTable(batchId: string, arrivals: readonly Arrival[]): Table {
  const correct = useCorrect(batchId)
  const [shown, show] = useState<Shown>('all')
  const [marks, setMarks] = useState<ReadonlySet<string>>(new Set())
  const [undo, setUndo] = useState<Undo | null>(null)
  const open = useMemo(() => arrivals.filter((each) => OPEN.has(each.state)), [arrivals])
  const rows = useMemo(() => open.filter((each) => isShown(each, shown)), [open, shown])
  const marked = useMemo(() => {
    const there = new Set(open.map((each) => each.id))
    return new Set([...marks].filter((id) => there.has(id)))
  }, [marks, open])
  const chosen = useMemo(
    () => (marked.size ? open.filter((each) => marked.has(each.id)) : rows),
    [marked, open, rows],
  )

  /** Told for each, also where several are on their way at once. */
  function send(changes: Correction[], words: string, done?: () => void) {
    if (!changes.length) return
    void correct
      .mutateAsync(changes)
      .then((answer) => {
        setUndo({ words, changes: answer.undo })
        done?.()
      })
      // What was refused is shown above the table.
      .catch(() => undefined)
  }

  function edit(
    field: string,
    cells: Cell[],
    words: string,
    more: { taken?: string; done?: () => void } = {},
  ) {
    const versions = new Map(open.map((each) => [each.id, each.version]))
    const changes = cells.map(({ id, value }) => ({
      id,
      version: versions.get(id) ?? 0,
      values: { [field]: value },
      ...(more.taken ? { taken: { [field]: more.taken } } : {}),
    }))
    send(changes, words, more.done)
  }

  const cellsOf = (of: readonly Arrival[], field: Field): Cell[] =>
    of.map((each) => ({ id: each.id, value: each[field] }))

  return {
    rows,
    open,
    marked,
    mark: (ids, on) =>
      setMarks((old) => {
        const next = new Set(old)
        for (const id of ids)
          if (on) next.add(id)
          else next.delete(id)
        return next
      }),
    chosen,
    shown,
    show,
    error: correct.error,
    busy: correct.isPending,
    undo,
    takeBack: () => {
      if (undo) correct.mutate(undo.changes, { onSuccess: () => setUndo(null) })
    },
    forgetUndo: () => setUndo(null),
    type: (arrival, field, value, more) =>
      edit(
        field,
        [{ id: arrival.id, value }],
        `${FIELD_WORDS[field] ?? 'What is filed'} of ${arrival.file_name} changed`,
        more,
      ),
    take: (arrival, field, value, taken) => {
      const words = arrival.witnesses.find((each) => each.field === field)?.words ?? field
      edit(field, [{ id: arrival.id, value }], `${words} of ${arrival.file_name} changed`, { taken })
    },
    paste: (arrival, field, lines) => {
      const from = rows.findIndex((each) => each.id === arrival.id)
      const cells = pasteDown(cellsOf(rows, field), from, lines)
      edit(field, cells, `${cells.length} pasted into ${FIELD_WORDS[field]}`)
    },
    fill: (field, from, typed) => {
      const start = from ? rows.findIndex((each) => each.id === from.id) : 0
      const column = marked.size ? chosen : rows.slice(Math.max(0, start))
      const now = (cell: Cell) =>
        cell.id === from?.id && typed !== undefined ? { ...cell, value: typed } : cell
      const own = from && typed !== undefined && typed !== from[field] ? [{ id: from.id, value: typed }] : []
      const cells = [...own, ...fillDown(cellsOf(column, field).map(now))]
      edit(field, cells, `${FIELD_WORDS[field]} filled down over ${cells.length}`)
    },
    replace: (field, find, by, exact, done) => {
      const cells = replaceAll(cellsOf(chosen, field), find, by, exact)
      edit(field, cells, `“${find}” replaced in ${cells.length}`, { done })
      return cells.length
    },
    found: (field, find, exact) => replaceAll(cellsOf(chosen, field), find, '\u0000', exact).length,
    mend: (of, code) => {
      const changes = of.flatMap((each) => mendOf(each, code))
      send(changes, `${changes.length} mended`)
    },
  }
}

function isShown(arrival: Arrival, shown: Shown): boolean {
  if (shown === 'all') return true
  if (shown.startsWith('code:')) return arrival.findings.some((each) => `code:${each.code}` === shown)
  return weightOf(arrival) === shown
}

export function weightOf(arrival: Arrival): string {
  return arrival.looking ? 'looking' : arrival.weight
}

const EDITABLE = new Set<string>(['number', 'revision', 'status', 'title', 'history'])

/** What one finding's usual mend would change; nothing where it has none. */
export function mendOf(arrival: Arrival, code: string): Correction[] {
  const finding = arrival.findings.find((each) => each.code === code && each.mend && EDITABLE.has(each.field))
  if (!finding) return []
  const values = { [finding.field]: finding.mend }
  const taken = finding.witness ? { [finding.field]: finding.witness } : {}
  return [{ id: arrival.id, version: arrival.version, values, taken }]
}

export interface Counted {
  code: string
  name: string
  count: number
  mends: number
}

/** The findings of these files by name, the most frequent first, with how many have a usual mend. */
export function countFindings(arrivals: readonly Arrival[]): Counted[] {
  const counted = new Map<string, Counted>()
  for (const arrival of arrivals)
    for (const finding of arrival.findings) {
      const old = counted.get(finding.code) ?? { code: finding.code, name: finding.name, count: 0, mends: 0 }
      const mends = old.mends + (finding.mend && EDITABLE.has(finding.field) ? 1 : 0)
      counted.set(finding.code, { ...old, count: old.count + 1, mends })
    }
  return [...counted.values()].sort((a, b) => b.count - a.count)
}
