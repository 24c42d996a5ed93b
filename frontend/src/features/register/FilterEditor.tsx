import { useState } from 'react'

import { Button } from '../../ui/Button'
import { Select, TextField } from '../../ui/Field'
import { Input } from '../../ui/Input'
import { useValues, type ColumnShown } from './useRegister'
import { DateField } from '../../ui/DateField'

interface Props {
  columns: readonly ColumnShown[]
  filter?: string[]
  onDone: (filter: string[]) => void
}

const OPS: Record<string, [string, string][]> = {
  text: [
    ['has', 'has in it'],
    ['is', 'is one of'],
    ['none', 'is empty'],
    ['some', 'is not empty'],
  ],
  code: [
    ['is', 'is one of'],
    ['not', 'is none of'],
    ['none', 'is empty'],
    ['some', 'is not empty'],
  ],
  date: [
    ['from', 'from'],
    ['to', 'up to'],
    ['none', 'is empty'],
    ['some', 'is not empty'],
  ],
  number: [
    ['from', 'at least'],
    ['to', 'at most'],
    ['none', 'is empty'],
    ['some', 'is not empty'],
  ],
  yes_no: [
    ['yes', 'yes'],
    ['no', 'no'],
    ['any', 'either'],
  ],
}
/** Text that cannot be listed, as file names, is only searched in. */
function opsFor(column: ColumnShown | undefined): [string, string][] {
  const ops = OPS[column?.kind ?? 'text'] ?? []
  return column?.kind === 'text' && !column.groups ? ops.filter(([op]) => op !== 'is') : ops
}

const WITHOUT = ['none', 'some', 'yes', 'no', 'any']

/** One condition: a column, how it is compared, with what. */
export function FilterEditor({ columns, filter, onDone }: Props) {
  const [key, setKey] = useState(filter?.[0] ?? 'status')
  const column = columns.find((each) => each.key === key)
  const ops = opsFor(column)
  const [op, setOp] = useState(filter?.[1] ?? '')
  const [values, setValues] = useState<string[]>(filter?.slice(2) ?? [])
  const chosen = ops.some(([each]) => each === op) ? op : (ops[0]?.[0] ?? '')
  const bare = WITHOUT.includes(chosen)
  const complete = bare || values.some((value) => value !== '' || chosen === 'is')
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (complete) onDone([key, chosen, ...(bare ? [] : values)])
      }}
    >
      <Select
        label="Column"
        value={key}
        onChange={(next) => {
          setKey(next)
          setOp('')
          setValues([])
        }}
        choices={columns.map((each) => ({ code: each.key, words: each.head }))}
      />
      <Select
        label="How"
        value={chosen}
        onChange={(next) => {
          setOp(next)
          setValues([])
        }}
        choices={ops.map(([code, words]) => ({ code, words }))}
      />
      {!bare && (chosen === 'is' || chosen === 'not') && (
        <Values column={key} values={values} onValues={setValues} />
      )}
      {!bare && chosen !== 'is' && chosen !== 'not' && (
        <Bound column={column} value={values[0] ?? ''} onValue={(value) => setValues(value ? [value] : [])} />
      )}
      <div className="flex justify-end">
        <Button look="act" type="submit" why={!complete && 'Choose or type a value first.'}>
          Filter
        </Button>
      </div>
    </form>
  )
}

interface BoundProps {
  column: ColumnShown | undefined
  value: string
  onValue: (value: string) => void
}

/** One value to compare with: words, a day, a number. */
function Bound({ column, value, onValue }: BoundProps) {
  if (column?.kind === 'date')
    return <DateField keep="passing" label="Day" value={value} onChange={onValue} />
  const number = column?.kind === 'number'
  return (
    <TextField
      keep="passing"
      label={column?.key === 'size_bytes' ? 'Bytes' : number ? 'Number' : 'Words'}
      type={number ? 'number' : 'text'}
      step="any"
      value={value}
      onChange={(event) => onValue(event.target.value)}
    />
  )
}

interface ValuesProps {
  column: string
  values: readonly string[]
  onValues: (values: string[]) => void
}

/** What the register has in this column, with counts; several can be chosen. */
function Values({ column, values, onValues }: ValuesProps) {
  const found = useValues(column, true)
  const [narrow, setNarrow] = useState('')
  const all = found.data ?? []
  const shown = all.filter((each) => each.words.toLowerCase().includes(narrow.toLowerCase()))
  return (
    <fieldset className="min-w-0">
      <legend className="mb-0.5 text-note font-medium text-second">Values</legend>
      {all.length > 10 && (
        <Input
          keep="passing"
          small
          aria-label="Narrow the values"
          placeholder="Narrow the values"
          value={narrow}
          onChange={(event) => setNarrow(event.target.value)}
          className="mb-1 w-full"
        />
      )}
      {found.isPending && <p className="text-second">Reading the values …</p>}
      <ul className="max-h-[220px] overflow-auto border border-line">
        {shown.map((each) => (
          <li key={each.key}>
            <label className="flex items-center gap-2 px-2 py-1 hover:bg-paper">
              <input
                type="checkbox"
                className="size-3.5 accent-plum"
                checked={values.includes(each.key)}
                onChange={(event) =>
                  onValues(
                    event.target.checked
                      ? [...values, each.key]
                      : values.filter((value) => value !== each.key),
                  )
                }
              />
              <span className="min-w-0 flex-1 truncate">{each.words}</span>
              <span className="text-second tabular-nums">{each.count.toLocaleString('en-GB')}</span>
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  )
}
