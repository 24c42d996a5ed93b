import { useQuery } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { IconButton } from '../../ui/IconButton'
import { Input } from '../../ui/Input'
import { ErrorNote } from '../../ui/Notes'
import { VerdictMark } from '../../ui/Stamp'

export interface SendLine {
  revisionId: string
  number: string
  revision: string
  title: string
  verdict: string
}

interface Props {
  /** The drawing set that is sent, if it is one. */
  of: string
  lines: readonly SendLine[]
  /** How many of a draft are not there for whoever looks. */
  missing: number
  said: Schemas['Sendable'] | undefined
  onChange: (lines: SendLine[]) => void
}

/** What goes, at exactly these revisions; what should make one stop stands at its line. */
export function SendLines({ of, lines, missing, said, onChange }: Props) {
  const byRevision = new Map(said?.lines.map((each) => [each.revision_id, each]))
  const stopped = new Set(said?.lines.filter((each) => each.stops.length).map((each) => each.revision_id))
  const drop = (gone: ReadonlySet<string>) => onChange(lines.filter((line) => !gone.has(line.revisionId)))
  return (
    <section aria-label="Documents to send" className="flex flex-col gap-2">
      <h2 className="mt-1 text-read font-semibold">
        {of && `${of}: `}
        {counted(lines.length, 'document')}
        {lines.length > 0 && ', at exactly these revisions'}
      </h2>
      {missing > 0 && (
        <p className="text-ochre">
          {counted(missing, 'document')} of the draft you do not see; left out here.
        </p>
      )}
      {stopped.size > 0 && (
        <div
          role="alert"
          className="flex flex-wrap items-center justify-between gap-2 border-l-4 border-ochre bg-ochre-tint px-3 py-2 text-ochre"
        >
          <p className="font-semibold">
            Look before you send: {counted(stopped.size, 'line')} with a reason.
          </p>
          <Button small onClick={() => drop(stopped)}>
            Leave these out
          </Button>
        </div>
      )}
      {lines.length === 0 && (
        <p className="text-second">
          Nothing yet. Add documents here by number or title, or mark them in the register and send them from
          there.
        </p>
      )}
      <ul className="border-t border-line bg-surface">
        {lines.map((line) => (
          <Line
            key={line.revisionId}
            line={line}
            said={byRevision.get(line.revisionId)}
            onDrop={() => drop(new Set([line.revisionId]))}
          />
        ))}
      </ul>
      <AddDocument
        there={new Set(lines.map((line) => line.revisionId))}
        onAdd={(line) => onChange([...lines, line])}
      />
    </section>
  )
}

interface LineProps {
  line: SendLine
  said: Schemas['LineStops'] | undefined
  onDrop: () => void
}

function Line({ line, said, onDrop }: LineProps) {
  return (
    <li className="border-b border-line px-2 py-1 text-list">
      <div className="flex items-center gap-2">
        <span className="code">{line.number}</span>
        <span className="code font-bold">{line.revision}</span>
        <span className="min-w-0 flex-1 truncate">{line.title}</span>
        <VerdictMark code={line.verdict} />
        <IconButton label={`Leave ${line.number} out`} icon={<X size={14} aria-hidden />} onClick={onDrop} />
      </div>
      {said && (
        <p className="text-note">
          {said.stops.map((each) => (
            <span key={each} className="mr-2 font-semibold text-ochre">
              {each}
            </span>
          ))}
          <span className="text-second">{said.notes.join(' ')}</span>
        </p>
      )}
    </li>
  )
}

const FOUND = 8

/** More from the register, by number or words. */
function AddDocument({ there, onAdd }: { there: ReadonlySet<string>; onAdd: (line: SendLine) => void }) {
  const { project } = useSeat()
  const [words, setWords] = useState('')
  const found = useQuery({
    queryKey: ['register', { project_id: project.id, words, limit: FOUND }],
    queryFn: () =>
      unwrap(
        api.GET('/api/documents', { params: { query: { project_id: project.id, words, limit: FOUND } } }),
      ),
    enabled: words.trim().length > 1,
  })
  const lines = words.trim().length > 1 ? (found.data?.lines ?? []) : []
  return (
    <div className="flex flex-col gap-1">
      <Input
        keep="passing"
        aria-label="Add a document"
        placeholder="Add a document: number or words of its title"
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <ErrorNote error={found.error} />
      {lines.length > 0 && (
        <ul aria-label="Found in the register" className="border border-line bg-surface text-list">
          {lines.map((line) => (
            <li
              key={line.id}
              className="flex items-center gap-2 border-b border-line/60 px-2 py-1 last:border-b-0"
            >
              <span className="code">{line.number}</span>
              <span className="min-w-0 flex-1 truncate">{line.title}</span>
              <Revisions line={line} there={there} onAdd={onAdd} />
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

interface RevisionsProps {
  line: Schemas['DocumentLine']
  there: ReadonlySet<string>
  onAdd: (line: SendLine) => void
}

/** What is in force first; the latest beside it where that is another. */
function Revisions({ line, there, onAdd }: RevisionsProps) {
  const offered = [
    ...(line.in_force_id && line.in_force_id !== line.revision_id
      ? [{ id: line.in_force_id, code: line.in_force, verdict: '', words: 'in force' }]
      : []),
    {
      id: line.revision_id,
      code: line.revision,
      verdict: line.verdict,
      words: line.in_force_id === line.revision_id ? 'in force' : 'latest, not released',
    },
  ]
  return offered.map(({ id, code, verdict, words }) => (
    <Button
      key={id}
      small
      why={there.has(id) && 'It is on the list.'}
      aria-label={`Add ${line.number} ${code}, ${words}`}
      title={words}
      onClick={() =>
        onAdd({ revisionId: id, number: line.number, revision: code, title: line.title, verdict })
      }
    >
      {code}
    </Button>
  ))
}
