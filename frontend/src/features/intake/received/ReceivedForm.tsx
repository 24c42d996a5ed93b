import { useRef } from 'react'

import { counted } from '../../../domain/counted'
import { Button } from '../../../ui/Button'
import { DateField } from '../../../ui/DateField'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextArea, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useHere } from '../../../ui/useHere'
import { useField, useKept } from '../../../ui/useKept'
import { ReceivedLines, tally } from './ReceivedLines'
import { useKeepList, useListFile, useTryList, type Received, type Tried } from './useReceived'

interface Props {
  batchId: string
  company: string
  /** The one that is changed; without it, another is entered. */
  one?: Received | undefined
  onClose: () => void
}

const EMPTY = { id: '', version: 0, number: '', dated: null, text: '' }

function useFields({ batchId, company, one = EMPTY }: Pick<Props, 'batchId' | 'company'> & { one?: Start }) {
  const form = useKept('received', one.id || batchId, `From ${company}`)
  const [number, setNumber] = useField(form, 'number', one.number)
  const [dated, setDated] = useField(form, 'dated', one.dated ?? '')
  const [text, setText] = useField(form, 'text', one.text)
  const asked = { id: one.id, version: one.version, number, dated: dated || null, text }
  return { form, number, setNumber, dated, setDated, text, setText, asked }
}

type Start = Pick<Received, 'id' | 'version' | 'number' | 'dated' | 'text'>

/** Number, day and list of what another company says it sent; tried against the files before it is kept. */
export function ReceivedForm({ batchId, company, one, onClose }: Props) {
  const fields = useFields(one ? { batchId, company, one } : { batchId, company })
  const trial = useTryList(batchId)
  const keep = useKeepList(batchId, fields.form)
  const here = useHere()
  const unlisted = !fields.text.trim() && 'Give their list first: a row a document, its number and revision.'
  return (
    <Dialog
      open
      wide
      title={one ? `Change ${one.number}` : 'Enter their transmittal'}
      about={`What ${company} says it sent, against the files of this batch.`}
      onClose={onClose}
    >
      <form
        aria-label="Their transmittal"
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          keep.mutate({ ...fields.asked, keep: true }, { onSuccess: () => here(onClose) })
        }}
      >
        <Fields fields={fields} />
        <ListFile batchId={batchId} onText={fields.setText} />
        <ErrorNote error={keep.error ?? trial.error} />
        {trial.data && <Trial tried={trial.data} />}
        <div className="flex flex-wrap justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            busy={trial.isPending}
            why={unlisted}
            onClick={() => trial.mutate({ ...fields.asked, keep: false })}
          >
            Hold it against the files
          </Button>
          <Button
            look="act"
            type="submit"
            busy={keep.isPending}
            why={unlisted || (!fields.number.trim() && 'Say which number it has with them.')}
          >
            Keep
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

function Fields({ fields }: { fields: ReturnType<typeof useFields> }) {
  const { form, number, setNumber, dated, setDated, text, setText } = fields
  return (
    <>
      <div className="flex flex-wrap gap-3">
        <TextField
          keep={form}
          label="Their number"
          required
          className="w-[200px]"
          value={number}
          onChange={(event) => setNumber(event.target.value)}
        />
        <DateField
          keep={form}
          label="Of (optional)"
          className="w-[150px]"
          value={dated}
          onChange={setDated}
        />
      </div>
      <TextArea
        keep={form}
        label="Their list: paste it, with or without heads"
        rows={7}
        className="code"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
    </>
  )
}

function ListFile({ batchId, onText }: { batchId: string; onText: (text: string) => void }) {
  const file = useListFile(batchId)
  const chooser = useRef<HTMLInputElement>(null)
  const take = (chosen: File, sheet = '') =>
    file.mutate({ file: chosen, sheet }, { onSuccess: (read) => onText(read.text) })
  const { sheet = '', sheets = [] } = file.data ?? {}
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-list">
      <Button small busy={file.isPending} onClick={() => chooser.current?.click()}>
        Take it from a spreadsheet
      </Button>
      <span className="text-second">
        XLSX or CSV; it goes into the field above, where it can be looked at.
      </span>
      <input
        ref={chooser}
        type="file"
        accept=".xlsx,.csv,.txt"
        aria-label="A spreadsheet with their list"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const chosen = event.target.files?.[0]
          event.target.value = ''
          if (chosen) take(chosen)
        }}
      />
      {sheets.length > 1 && (
        <Select
          label={`Sheet, of ${sheets.length}`}
          className="w-[240px]"
          value={sheet}
          onChange={(name) => file.variables && take(file.variables.file, name)}
          choices={sheets.map((name) => ({ code: name, words: name }))}
        />
      )}
      <ErrorNote error={file.error} />
    </div>
  )
}

function Trial({ tried }: { tried: Tried }) {
  return (
    <section aria-label="The list against the files" className="flex flex-col gap-2">
      <p role="status" className="font-semibold">
        {tally(tried.lines, tried.more)}
      </p>
      <ReceivedLines lines={tried.lines} more={tried.more} />
      {tried.unread.length > 0 && (
        <details className="text-list text-ochre">
          <summary>{counted(tried.unread.length, 'row')} left out</summary>
          <ul>
            {tried.unread.map((each) => (
              <li key={each.row}>
                Row {each.row}, “{each.said}”: {each.words}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}
