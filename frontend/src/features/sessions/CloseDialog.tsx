import { useState } from 'react'

import type { Schemas } from '../../api/client'
import type { Session } from '../../api/session'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { useSessionActs } from './useSessions'

type Becomes = Schemas['CloseSession']['open_becomes']

const BECOMES = [
  { code: '', words: 'stay open' },
  { code: 'agreed', words: 'are agreed' },
  { code: 'declined', words: 'are declined' },
  { code: 'done', words: 'are done' },
  { code: 'dropped', words: 'are dropped' },
]

/** What is still open, by person and by sheet, and what becomes of it. */
export function CloseDialog({ session, onClose }: { session: Session; onClose: () => void }) {
  const acts = useSessionActs(session.line.id)
  const here = useHere()
  const [becomes, setBecomes] = useState<string>('')
  const sheets = session.sheets.filter((each) => each.open_marks > 0)
  const open = session.line.open_marks
  return (
    <Dialog
      open
      title={`Close ${session.line.number}`}
      about="Nobody marks in it any more, its documents are checked in unchanged, and its record is made: each sheet with its marks, for good."
      onClose={onClose}
    >
      <div className="flex flex-col gap-4">
        {open > 0 ? (
          <>
            <div className="grid grid-cols-2 gap-4 text-list max-sm:grid-cols-1">
              <Open
                title="Still open, by person"
                lines={session.open_with.map((each) => [`${each.name} (${each.company})`, each.count])}
              />
              <Open
                title="By sheet"
                lines={sheets.map((each) => [`${each.number} ${each.revision}`, each.open_marks])}
              />
            </div>
            <Select
              label={`The ${counted(open, 'open mark')}`}
              value={becomes}
              onChange={setBecomes}
              choices={BECOMES}
              className="max-w-[240px]"
            />
          </>
        ) : (
          <p>Nothing of it is open.</p>
        )}
        <ErrorNote error={acts.close.error} />
        <Button
          look="act"
          className="self-start"
          busy={acts.close.isPending}
          onClick={() =>
            acts.close.mutate(
              { version: session.version, open_becomes: becomes as Becomes },
              { onSuccess: () => here(onClose) },
            )
          }
        >
          Close the session
        </Button>
      </div>
    </Dialog>
  )
}

function Open({ title, lines }: { title: string; lines: [string, number][] }) {
  return (
    <div>
      <h3 className="mb-1 font-semibold">{title}</h3>
      <ul>
        {lines.map(([words, count]) => (
          <li key={words} className="flex justify-between gap-2 border-b border-line/70 py-0.5">
            <span className="min-w-0 truncate">{words}</span>
            <span>{count}</span>
          </li>
        ))}
      </ul>
    </div>
  )
}
