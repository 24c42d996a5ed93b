import { counted } from '../../domain/counted'
import { hasLevel, useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select, TextField } from '../../ui/Field'
import { ErrorNote, ProgressBar } from '../../ui/Notes'
import type { Marked } from './markedLines'
import { useChangeMany } from './useChangeMany'
import type { ColumnShown, DocumentChange } from './useRegister'
import { useField, useKept, type Kept } from '../../ui/useKept'
import { DateField } from '../../ui/DateField'

interface Props {
  lines: readonly Marked[]
  columns: readonly ColumnShown[]
  /** The column to begin with. */
  column?: string
  /** `failed`: not all of them. */
  onDone: (undo: DocumentChange[], words: string, failed: boolean) => void
  onClose: () => void
}

/** One column of all marked lines gets one value; it can be taken back afterwards. */
export function ChangeDialog({ lines, columns, column: first, onDone, onClose }: Props) {
  const { project } = useSeat()
  const open = columns.filter((column) => column.change !== 'none' && hasLevel(project, column.change))
  const form = useKept(
    'document-change',
    `${first ?? ''} ${lines.map((line) => line.id).join(' ')}`.slice(0, 900),
  )
  const [key, setKey] = useField(form, 'key', first ?? 'discipline')
  const [value, setValue] = useField(form, 'value', '')
  const change = useChangeMany()
  const column = open.find((each) => each.key === key) ?? open[0]
  if (!column) return null
  const many = lines.length === 1 ? (lines[0]?.number ?? '') : counted(lines.length, 'document')
  const listed = column.choices.length > 0
  return (
    <Dialog
      title={column.key === 'folder' ? `Move ${many}` : `Change ${many}`}
      about={
        column.key === 'folder'
          ? 'Into another folder of the project.'
          : 'One column, the same value for all.'
      }
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          const changes = lines.map(({ id, version }) => ({ id, version, values: { [column.key]: value } }))
          void change.change(changes).then(({ undo, failed }) => {
            const done = column.key === 'folder' ? 'moved' : `changed in ${column.head}`
            if (!failed) form.drop()
            if (!failed || undo.length) onDone(undo, `${counted(undo.length, 'document')} ${done}.`, failed)
          })
        }}
      >
        {first !== 'folder' && (
          <Select
            label="Column"
            value={column.key}
            onChange={(next) => {
              if (next === key) return
              setKey(next)
              setValue('')
            }}
            choices={open.map((each) => ({ code: each.key, words: each.head }))}
          />
        )}
        {listed || column.kind === 'yes_no' ? (
          <Select
            label={column.key === 'folder' ? 'Folder' : 'Value'}
            value={value}
            onChange={setValue}
            choices={[
              { code: '', words: column.key === 'folder' ? 'Choose a folder' : 'nothing' },
              ...(listed ? column.choices : YES_NO).map((each) => ({
                code: each.code,
                words:
                  listed && each.words !== each.code && column.key !== 'folder'
                    ? `${each.code}  ${each.words}`
                    : each.words,
              })),
            ]}
          />
        ) : (
          <Value form={form} kind={column.kind} value={value} onChange={setValue} />
        )}
        <ErrorNote error={change.error} />
        <div className="flex items-center justify-end gap-2">
          {change.done && (
            <span role="status" className="flex flex-1 items-center gap-2 text-second">
              {change.done.count.toLocaleString('en-GB')} of {change.done.of.toLocaleString('en-GB')}
              <ProgressBar done={change.done.count} of={change.done.of} label="Documents changed" />
            </span>
          )}
          {change.done ? (
            <Button onClick={change.stop}>Stop</Button>
          ) : (
            <Button onClick={onClose}>Leave it</Button>
          )}
          <Button
            look="act"
            type="submit"
            busy={change.done !== null}
            why={column.key === 'folder' && !value && 'Choose a folder first.'}
          >
            {column.key === 'folder' ? 'Move' : value ? 'Change' : 'Empty the column'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

interface ValueProps {
  form: Kept
  kind: string
  value: string
  onChange: (value: string) => void
}

function Value({ form, kind, value, onChange }: ValueProps) {
  if (kind === 'date') return <DateField keep={form} label="Value" value={value} onChange={onChange} />
  return (
    <TextField
      keep={form}
      label="Value"
      type={kind === 'number' ? 'number' : 'text'}
      step="any"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  )
}

const YES_NO = [
  { code: 'yes', words: 'yes' },
  { code: 'no', words: 'no' },
]
