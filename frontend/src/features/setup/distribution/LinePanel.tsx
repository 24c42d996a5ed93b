import { Button } from '../../../ui/Button'
import { Checkbox } from '../../../ui/Checkbox'
import { DateField } from '../../../ui/DateField'
import { Select } from '../../../ui/Field'
import type { Kept } from '../../../ui/useKept'
import { lineWords, type Matrix, type MatrixLine } from './useDistribution'

interface Props {
  keep: Kept
  matrix: Matrix
  line: MatrixLine
  may: boolean
  onChange: (line: MatrixLine) => void
  onTake: () => void
}

/** One line: which documents, from when on, and for what those get it who act on it. */
export function LinePanel({ keep, matrix, line, may, onChange, onTake }: Props) {
  const any = (words: string, choices: Matrix['forms']) => [
    { code: '', words },
    ...choices.map((each) => ({ code: each.code, words: `${each.code} ${each.words}` })),
  ]
  const chosen = (key: 'discipline' | 'form' | 'status' | 'when' | 'purpose') => ({
    value: line[key] ?? '',
    disabled: !may,
    onChange: (code: string) => onChange({ ...line, [key]: code }),
  })
  return (
    <div className="flex flex-col gap-2.5 px-4 py-3">
      <h2 className="font-semibold">{lineWords(line, matrix)}</h2>
      <Select
        label="Discipline"
        {...chosen('discipline')}
        choices={any('All disciplines', matrix.disciplines)}
      />
      <Select label="Form" {...chosen('form')} choices={any('All forms', matrix.forms)} />
      <Select label="Status" {...chosen('status')} choices={any('Any status', matrix.statuses)} />
      <Select label="Due" {...chosen('when')} choices={matrix.whens} />
      <Select label="Who acts gets it" {...chosen('purpose')} choices={matrix.purposes} />
      <DateField
        keep={keep}
        label="Only what is filed from"
        value={line.since ?? ''}
        onChange={(on) => onChange({ ...line, since: on || null })}
      />
      <ByItself line={line} may={may} onChange={onChange} />
      {may && (
        <Button small look="stop" className="self-start" onClick={onTake}>
          Take the line away
        </Button>
      )}
    </div>
  )
}

/** For a status and from a day on alone: else a matrix that comes late would send all that is there. */
function ByItself({ line, may, onChange }: Pick<Props, 'line' | 'may' | 'onChange'>) {
  const open = !line.status || !line.since
  return (
    <div>
      <Checkbox
        label="Send it by itself"
        checked={line.by_itself ?? false}
        disabled={!may || (open && !line.by_itself)}
        onChange={(by_itself) => onChange({ ...line, by_itself })}
      />
      <p className="text-note text-second">
        {open
          ? 'Choose a status, and from which day on, before it may go by itself.'
          : line.by_itself
            ? 'As soon as it is due it goes out by itself, in the name of whoever saved this; a controller sends what was due before.'
            : 'It is proposed to the controllers, who send it.'}
      </p>
    </div>
  )
}
