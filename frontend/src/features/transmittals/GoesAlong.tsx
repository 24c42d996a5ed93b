import type { Schemas } from '../../api/client'
import { useSession } from '../../api/session'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Select } from '../../ui/Field'
import type { DraftContent } from './useTransmittals'

export type MarksAlong = NonNullable<DraftContent['marks']>

const MARKS = [
  { code: '', words: 'no marks' },
  { code: 'marked', words: 'copies with the marks in them' },
  { code: 'summary', words: 'a summary of the marks, with clips' },
]

interface Props {
  natives: boolean
  stamped: boolean
  marks: MarksAlong
  onNatives: (on: boolean) => void
  onStamped: (on: boolean) => void
  onMarks: (marks: MarksAlong) => void
  record: NonNullable<DraftContent['record']> | null
  onRecord: (record: null) => void
  /** What the project attaches to a mail at most, in MB; 0 for nothing. */
  attachMb: number
  /** Nothing is attached where links are narrower than files. */
  narrowed: boolean
}

/** What goes with the documents as they are filed: natives, and copies made for this sending. */
export function GoesAlong({ natives, stamped, marks, record, attachMb, narrowed, ...on }: Props) {
  return (
    <fieldset className="flex flex-col gap-1.5">
      <legend className="mb-1 font-medium">What goes along</legend>
      {record && <RecordGoes record={record} onLeave={() => on.onRecord(null)} />}
      <Checkbox label="Their native files (DWG, DOCX …)" checked={natives} onChange={on.onNatives} />
      <Checkbox
        label="Stamped copies: status, purpose, date and a code"
        checked={stamped}
        onChange={on.onStamped}
      />
      <Select
        label="Of their marks"
        value={marks}
        onChange={(code) => on.onMarks(code as MarksAlong)}
        choices={MARKS}
      />
      <p className="text-note text-second">{attachedWords(attachMb, narrowed || stamped || marks !== '')}</p>
    </fieldset>
  )
}

/** The record of a session, as a ZIP of its own. */
function RecordGoes({ record, onLeave }: { record: NonNullable<Props['record']>; onLeave: () => void }) {
  const session = useSession(record.session_id).data
  const part = session && session.records.length > 1 ? `, part ${record.part}` : ''
  return (
    <p className="flex items-center justify-between gap-2 border border-line bg-surface px-2 py-1">
      <span className="min-w-0">
        The record of {session ? `${session.line.number} ${session.line.name}` : 'a session'}
        {part} (ZIP)
      </span>
      <Button small onClick={onLeave}>
        Leave it out
      </Button>
    </p>
  )
}

function attachedWords(mib: number, linkOnly: boolean): string {
  if (!mib) return 'Files are fetched by the link in the mail.'
  if (linkOnly) return 'Like this, files are fetched by the link in the mail and not attached to it.'
  return `Up to ${mib} MB together the files are attached to the mail, too.`
}

/** What a document was sent with, for its sender. */
export function AlongWords({ along }: { along: readonly Schemas['AlongShown'][] }) {
  if (!along.length) return null
  return (
    <ul className="text-note text-second">
      {along.map((each) => (
        <li key={each.place}>
          {each.fault ? (
            <span className="text-brick">
              no {each.words}: {each.fault}
            </span>
          ) : (
            `with a ${each.words}`
          )}
        </li>
      ))}
    </ul>
  )
}
