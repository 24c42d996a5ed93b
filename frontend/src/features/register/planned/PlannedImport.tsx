import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { type Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { putFile } from '../../../api/putFile'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useHere } from '../../../ui/useHere'

type Read = Schemas['ListRead']

const FIELDS: [string, string][] = [
  ['number', 'Number'],
  ['planned_on', 'Planned day'],
  ['title', 'Title'],
  ['company', 'Company'],
  ['discipline', 'Discipline'],
]

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

async function read(projectId: string, asked: Asked): Promise<Read> {
  const query = new URLSearchParams({
    project_id: projectId,
    columns: asked.columns ? JSON.stringify(asked.columns) : '',
    day_first: String(asked.dayFirst),
    keep: String(asked.keep),
    sheet: asked.sheet,
    heads: String(asked.heads),
  })
  return await putFile<Read>(`/api/planned?${query}`, asked.file)
}

/** A spreadsheet is tried first: its columns matched, what is wrong told by cell; then it is kept. */
export function PlannedImport({ onClose }: { onClose: () => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const [file, setFile] = useState<File | null>(null)
  const [dayFirst, setDayFirst] = useState(true)
  const here = useHere()
  const run = useMutation({
    mutationFn: (asked: Asked) => read(project.id, asked),
    onSuccess: (found) => {
      if (!found.kept) return
      void client.invalidateQueries({ queryKey: ['planned'] })
      here(onClose)
    },
  })
  const found = run.data
  const again = (part: Partial<Asked>) => {
    if (!file || !found) return
    const { sheet, heads, taken: columns } = found
    run.mutate({ file, columns, dayFirst, keep: false, sheet, heads, ...part })
  }
  return (
    <Dialog
      title="Take in a list of planned documents"
      about="A spreadsheet (XLSX) or CSV; a row above names the columns. Nothing is kept before you say so."
      open
      wide
      onClose={onClose}
    >
      <div className="flex flex-col gap-4">
        <div>
          <label htmlFor="planned-file" className="mb-0.5 block text-note font-medium text-second">
            List
          </label>
          <input
            id="planned-file"
            type="file"
            accept=".xlsx,.csv,.txt"
            className="w-full text-list file:mr-3 file:h-8 file:rounded-[3px] file:border file:border-line file:bg-surface file:px-3"
            onChange={(event) => {
              const chosen = event.target.files?.[0] ?? null
              setFile(chosen)
              if (chosen)
                run.mutate({ file: chosen, columns: null, dayFirst, keep: false, sheet: '', heads: 0 })
            }}
          />
        </div>
        <ErrorNote error={run.error} />
        {found && (
          <>
            <Place found={found} onChange={(part) => again({ columns: null, ...part })} />
            <Columns found={found} onChange={(columns) => again({ columns })} />
            {found.either_way > 0 && (
              <Select
                label={`${found.either_way} ${found.either_way === 1 ? 'day reads' : 'days read'} either way, like 03/04/2027`}
                className="max-w-[340px]"
                value={dayFirst ? 'day' : 'month'}
                onChange={(value) => {
                  setDayFirst(value === 'day')
                  again({ dayFirst: value === 'day' })
                }}
                choices={[
                  { code: 'day', words: 'The day comes first: 3 April' },
                  { code: 'month', words: 'The month comes first: 4 March' },
                ]}
              />
            )}
            <p role="status">
              {count(found.rows, 'row')}: <b>{found.new}</b> new, <b>{found.changed}</b> changed, {found.same}{' '}
              as they are,{' '}
              <b className={found.troubles.length ? 'text-brick' : ''}>
                {found.troubles.length + found.more_troubles}
              </b>{' '}
              troubles.
              {found.troubles.length > 0 && ' Rows with a trouble are left out.'}
            </p>
            <Troubles found={found} />
            <div className="flex justify-end gap-2">
              <Button onClick={onClose}>Leave it</Button>
              <Button
                look="act"
                busy={run.isPending}
                why={found.new + found.changed === 0 && 'Nothing in it is new or changed.'}
                onClick={() => again({ keep: true })}
              >
                Keep {count(found.new + found.changed, 'planned document')}
              </Button>
            </div>
          </>
        )}
      </div>
    </Dialog>
  )
}

function count(many: number, of: string): string {
  return `${many} ${of}${many === 1 ? '' : 's'}`
}

interface PlaceProps {
  found: Read
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

function Columns({ found, onChange }: { found: Read; onChange: (columns: Record<string, number>) => void }) {
  return (
    <div className="grid grid-cols-5 gap-3">
      {FIELDS.map(([field, words]) => {
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
                {
                  code: '',
                  words: field === 'company' || field === 'discipline' ? 'as the number says' : 'no column',
                },
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
    </div>
  )
}

function Troubles({ found }: { found: Read }) {
  if (found.troubles.length === 0) return null
  return (
    <div className="max-h-[200px] overflow-auto border border-line">
      <table className="w-full text-list">
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
