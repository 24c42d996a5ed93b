import { useMutation } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'

import type { Schemas } from '../api/client'
import { putFile } from '../api/putFile'
import { counted } from '../domain/counted'
import { Button } from './Button'
import { Dialog } from './Dialog'
import { Select } from './Field'
import { ErrorNote } from './Notes'
import { useHere } from './useHere'

export type Tried = Omit<Schemas['ListRead'], 'new' | 'changed' | 'same'>

interface Asked {
  file: File
  columns: Record<string, number> | null
  dayFirst: boolean
  keep: boolean
  /** Of a book; empty for the first with something in it. */
  sheet: string
  /** The row that names the columns; 0 to have it found. */
  heads: number
}

/** The address with how the list is to be read. */
function addressOf(address: string, asked: Asked): string {
  const query = new URLSearchParams({
    columns: asked.columns ? JSON.stringify(asked.columns) : '',
    day_first: String(asked.dayFirst),
    keep: String(asked.keep),
    sheet: asked.sheet,
    heads: String(asked.heads),
  })
  return `${address}&${query}`
}

export interface ListField {
  field: string
  words: string
  /** What it means where no column holds it. */
  none?: string
  /** Shown only where a column holds it, or where it is looked for. */
  seldom?: boolean
}

interface Props<Read extends Tried> {
  title: string
  about: string
  /** With the project, and what else the route wants. */
  address: string
  fields: readonly ListField[]
  /** What keeping it would do, in a sentence and where it needs more, below the troubles. */
  said: (found: Read) => ReactNode
  more?: (found: Read) => ReactNode
  /** On the button, how much is kept; and why there is nothing to keep. */
  keep: (found: Read) => string
  why: (found: Read) => string | false
  onKept: (found: Read) => void
  onClose: () => void
  children?: ReactNode
}

function useList<Read extends Tried>({ address, onKept }: Props<Read>) {
  const [file, setFile] = useState<File | null>(null)
  const [dayFirst, setDayFirst] = useState(true)
  const here = useHere()
  const run = useMutation({
    mutationFn: (asked: Asked) => putFile<Read>(addressOf(address, asked), asked.file),
    onSuccess: (found) => {
      if (found.kept) here(() => onKept(found))
    },
  })
  const found = run.data
  return {
    run,
    found,
    dayFirst,
    choose: (chosen: File | null) => {
      setFile(chosen)
      if (chosen) run.mutate({ file: chosen, columns: null, dayFirst, keep: false, sheet: '', heads: 0 })
    },
    again: (part: Partial<Asked>) => {
      if (!file || !found) return
      if (part.dayFirst !== undefined) setDayFirst(part.dayFirst)
      const { sheet, heads, taken: columns } = found
      run.mutate({ file, columns, dayFirst, keep: false, sheet, heads, ...part })
    },
  }
}

/** A spreadsheet is tried first: its columns matched, what is wrong told by cell; then it is kept. */
export function ListIn<Read extends Tried>(props: Props<Read>) {
  const list = useList(props)
  const { found, run, again } = list
  return (
    <Dialog title={props.title} about={props.about} open wide onClose={props.onClose}>
      <div className="flex flex-col gap-4">
        {props.children}
        <label className="block">
          <span className="mb-0.5 block text-note font-medium text-second">List</span>
          <input
            type="file"
            accept=".xlsx,.csv,.txt"
            className="w-full text-list file:mr-3 file:h-8 file:rounded-[3px] file:border file:border-line file:bg-surface file:px-3"
            onChange={(event) => list.choose(event.target.files?.[0] ?? null)}
          />
        </label>
        <ErrorNote error={run.error} />
        {found && (
          <>
            <Place found={found} onChange={(part) => again({ columns: null, ...part })} />
            <Columns fields={props.fields} found={found} onChange={(columns) => again({ columns })} />
            <EitherWay found={found} dayFirst={list.dayFirst} onChange={(dayFirst) => again({ dayFirst })} />
            <p role="status">
              {counted(found.rows, 'row')}: {props.said(found)}{' '}
              <b className={found.troubles.length ? 'text-brick' : ''}>
                {counted(found.troubles.length + found.more_troubles, 'trouble')}
              </b>
              .{found.troubles.length > 0 && ' Rows with a trouble are left out.'}
            </p>
            <Troubles found={found} />
            {props.more?.(found)}
            <div className="flex justify-end gap-2">
              <Button onClick={props.onClose}>Leave it</Button>
              <Button
                look="act"
                busy={run.isPending}
                why={props.why(found)}
                onClick={() => again({ keep: true })}
              >
                {props.keep(found)}
              </Button>
            </div>
          </>
        )}
      </div>
    </Dialog>
  )
}

interface EitherWayProps {
  found: Tried
  dayFirst: boolean
  onChange: (dayFirst: boolean) => void
}

function EitherWay({ found, dayFirst, onChange }: EitherWayProps) {
  if (!found.either_way) return null
  return (
    <Select
      label={`${found.either_way} ${found.either_way === 1 ? 'day reads' : 'days read'} either way, like 03/04/2027`}
      className="max-w-[340px]"
      value={dayFirst ? 'day' : 'month'}
      onChange={(value) => onChange(value === 'day')}
      choices={[
        { code: 'day', words: 'The day comes first: 3 April' },
        { code: 'month', words: 'The month comes first: 4 March' },
      ]}
    />
  )
}

interface PlaceProps {
  found: Tried
  onChange: (part: Partial<Asked>) => void
}

/** Which sheet of the book, and which of its rows names the columns. */
function Place({ found, onChange }: PlaceProps) {
  return (
    <div className="flex flex-wrap gap-3">
      {found.sheets.length > 1 && (
        <Select
          label={`Sheet, of ${found.sheets.length}`}
          className="w-[260px]"
          value={found.sheet}
          onChange={(sheet) => onChange({ sheet, heads: 0 })}
          choices={found.sheets.map((name) => ({ code: name, words: name }))}
        />
      )}
      <Select
        label="The row that names the columns"
        className="w-[420px] max-w-full"
        value={String(found.heads)}
        onChange={(heads) => onChange({ heads: Number(heads) })}
        choices={found.before.map((words, at) => ({
          code: String(at + 1),
          words: `${at + 1}  ${words || '(empty)'}`,
        }))}
      />
    </div>
  )
}

interface ColumnsProps {
  fields: readonly ListField[]
  found: Tried
  onChange: (columns: Record<string, number>) => void
}

function Columns({ fields, found, onChange }: ColumnsProps) {
  const [all, setAll] = useState(false)
  const shown = all ? fields : fields.filter((each) => !each.seldom || each.field in found.taken)
  return (
    <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-3">
      {shown.map(({ field, words, none = 'no column' }) => {
        const at = found.taken[field]
        const samples = at === undefined ? [] : (found.columns[at]?.samples ?? [])
        return (
          <div key={field} className="min-w-0">
            <Select
              label={words}
              value={at === undefined ? '' : String(at)}
              onChange={(value) => {
                const rest = Object.entries(found.taken).filter(([key]) => key !== field)
                onChange(Object.fromEntries(value === '' ? rest : [...rest, [field, Number(value)]]))
              }}
              choices={[
                { code: '', words: none },
                ...found.columns.map((column, place) => ({
                  code: String(place),
                  words: `${column.letter}  ${column.head}`,
                })),
              ]}
            />
            {samples.map((sample, place) => (
              <p key={place} className="truncate text-note text-second">
                {sample}
              </p>
            ))}
          </div>
        )
      })}
      {shown.length < fields.length && (
        <span className="self-start pt-5">
          <Button onClick={() => setAll(true)}>{counted(fields.length - shown.length, 'more field')}</Button>
        </span>
      )}
    </div>
  )
}

function Troubles({ found }: { found: Tried }) {
  if (found.troubles.length === 0) return null
  return (
    <div className="max-h-[200px] overflow-auto border border-line">
      <table className="w-full text-list" aria-label="What is wrong with the list">
        <thead className="sticky top-0 bg-surface text-left text-note text-second">
          <tr>
            <th className="w-[70px] px-2 font-semibold">Cell</th>
            <th className="w-[220px] px-2 font-semibold">Value</th>
            <th className="px-2 font-semibold">What is wrong</th>
          </tr>
        </thead>
        <tbody>
          {found.troubles.map((trouble, place) => (
            <tr key={place} className="border-t border-line/70 align-top">
              <td className="code px-2">{trouble.cell}</td>
              <td className="px-2 break-all">{trouble.value}</td>
              <td className="px-2">{trouble.words}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.more_troubles > 0 && <p className="px-2 py-1 text-second">and {found.more_troubles} more.</p>}
    </div>
  )
}
