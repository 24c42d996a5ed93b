import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useLookedAt } from '../../api/lookedAt'
import { hasLevel, useSeat } from '../../api/me'
import { useSession, type Session, type SessionSheet } from '../../api/session'
import { bytesText } from '../../domain/bytes'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { idsForAddress } from '../../ui/chosen'
import { Following } from '../../ui/Following'
import { ErrorNote, Loading, ProgressBar } from '../../ui/Notes'
import { Panel } from '../../ui/Panel'
import { OwnTime } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { Talk, useTalk } from '../../ui/Talk'
import { Timeline } from '../../ui/Trail'
import { HostActs } from './HostActs'
import { People } from './People'
import { TakeOutDialog } from './TakeOutDialog'

/** One session: its time, its sheets, who is invited and who came, its record. */
export function SessionPanel({ sessionId, onClose }: { sessionId: string; onClose: () => void }) {
  const found = useSession(sessionId)
  useLookedAt('session', found.data?.line.id)
  const talk = useTalk('session', sessionId)
  const { tab } = useSearch({ strict: false })
  if (!found.data)
    return (
      <Panel label="Session" onClose={onClose} width={560}>
        {found.error ? <ErrorNote error={found.error} /> : <Loading what="the session" />}
      </Panel>
    )
  const session = found.data
  return (
    <Panel label="Session" onClose={onClose} width={560}>
      <Head session={session} />
      <Tabs
        label="Session"
        asked={tab}
        tabs={[
          { key: 'now', words: 'Now', content: <Now session={session} /> },
          {
            key: 'people',
            words: 'People',
            count: session.parties.length,
            content: <People session={session} />,
          },
          {
            key: 'talk',
            words: 'Talk',
            count: talk.data?.said.length ?? 0,
            content: <Talk kind="session" target={sessionId} words="this session" />,
          },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={sessionId} /> },
        ]}
      />
    </Panel>
  )
}

function Head({ session }: { session: Session }) {
  const { line } = session
  return (
    <header className="px-4 pt-3 pr-10 pb-2">
      <p className="text-list text-second">
        {line.state === 'to come' ? 'Opens' : 'Opened'} <OwnTime at={line.opens_at} />,{' '}
        {line.state === 'closed' ? 'closed' : 'closes'} <OwnTime at={line.closed_at ?? line.closes_at} />
      </p>
      <h2 className="text-head font-semibold">
        <span className="code">{line.number}</span> {line.name}
      </h2>
      <p className="text-list text-second">
        Host: {line.host.name} <span className="code">{line.host.company}</span>
        {session.level_words && !session.hosts && `. You may ${session.level_words}`}.
      </p>
    </header>
  )
}

function Now({ session }: { session: Session }) {
  const { line, note } = session
  return (
    <div className="flex flex-col gap-4">
      {note && <p className="border-l-2 border-line pl-3 text-read whitespace-pre-line">“{note}”</p>}
      <GoIn session={session} />
      <HostActs session={session} />
      {session.records.length > 0 && <Records session={session} />}
      <Sheets session={session} />
      {line.state !== 'closed' && (
        <p>
          <a
            href={`/api/sessions/${line.id}/calendar`}
            download={`${line.number}.ics`}
            className="inline-flex min-h-6 items-center text-plum underline"
          >
            Calendar file
          </a>
        </p>
      )}
      <Following kind="session" target={line.id} words="this session" />
    </div>
  )
}

/** The one act of whoever is invited: go in, to the first sheet that has something open. */
function GoIn({ session }: { session: Session }) {
  const navigate = useNavigate()
  if (!session.may.includes('look')) return null
  const inside = session.sheets.filter((each) => !each.out_why)
  const first = inside.find((each) => each.open_marks > 0) ?? inside[0]
  if (!first) return null
  return (
    <div className="flex items-center justify-between gap-3 bg-plum-tint px-3 py-2">
      <p>It is open. {counted(inside.length, 'sheet')} to go through.</p>
      <Button
        look="act"
        onClick={() =>
          void navigate({
            to: '/sheet/$revisionId',
            params: { revisionId: first.revision_id },
            search: { session: session.line.id },
          })
        }
      >
        Go in
      </Button>
    </div>
  )
}

function Records({ session }: { session: Session }) {
  return (
    <section aria-label="The record" className="flex flex-col gap-2">
      {session.records.map((record) => (
        <div key={record.part} className="border border-line bg-paper px-3 py-2">
          <p className="font-semibold">
            {session.records.length > 1 ? `The record, part ${record.part}` : 'The record'}
          </p>
          <p className="text-list text-second">
            <OwnTime at={record.opened_at} /> to <OwnTime at={record.closed_at} />,{' '}
            {counted(record.sheets, 'sheet')} with their marks.
          </p>
          {record.sha256 ? <Made session={session} record={record} /> : <BeingMade record={record} />}
        </div>
      ))}
    </section>
  )
}

function Made({ session, record }: { session: Session; record: Schemas['RecordShown'] }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  return (
    <>
      <p className="code text-note break-all text-second">SHA-256 {record.sha256}</p>
      {session.may_take_record ? (
        <span className="mt-1 flex flex-wrap gap-2">
          <Button small onClick={() => download(`/api/sessions/${session.line.id}/records/${record.part}`)}>
            Download, ZIP, {bytesText(record.size_bytes)}
          </Button>
          {project.tools.includes('transmittals') && hasLevel(project, 'file') && (
            <Button
              small
              title="A transmittal with its sheets and the record, to those who took part"
              onClick={() =>
                void navigate({
                  to: '/transmittals/new',
                  search: { record: `${session.line.id}.${record.part}` },
                })
              }
            >
              Send it out
            </Button>
          )}
        </span>
      ) : (
        <p className="text-note text-second">It is for those who took part.</p>
      )}
    </>
  )
}

function BeingMade({ record }: { record: Schemas['RecordShown'] }) {
  return (
    <div role="status" className="mt-1">
      <p className="text-list">
        It is being made: {record.done} of {counted(record.sheets, 'sheet')} …
      </p>
      <ProgressBar done={record.done} of={record.sheets} label="The record being made" />
    </div>
  )
}

function Sheets({ session }: { session: Session }) {
  const [out, setOut] = useState<SessionSheet | null>(null)
  const navigate = useNavigate()
  const reviewed = session.sheets.filter((each) => !each.out_why)
  return (
    <section aria-label="Sheets">
      <div className="mb-1 flex items-center justify-between gap-2">
        <h3 className="text-body font-semibold">{counted(session.sheets.length, 'sheet')}</h3>
        {session.line.state === 'closed' && session.hosts && reviewed.length > 0 && (
          <Button
            small
            onClick={() =>
              void navigate({
                to: '/reviews/new',
                search: { documents: idsForAddress(reviewed.map((each) => each.document_id)) },
              })
            }
          >
            Start a review with them
          </Button>
        )}
      </div>
      <ul className="border-t border-line">
        {session.sheets.map((sheet) => (
          <Sheet key={sheet.revision_id} sheet={sheet} session={session} onOut={() => setOut(sheet)} />
        ))}
      </ul>
      {out && <TakeOutDialog session={session} sheet={out} onClose={() => setOut(null)} />}
    </section>
  )
}

interface SheetProps {
  sheet: SessionSheet
  session: Session
  onOut: () => void
}

function Sheet({ sheet, session, onOut }: SheetProps) {
  const inside = session.may.includes('look') && !sheet.out_why
  return (
    <li className="flex items-start gap-2 border-b border-line py-1.5 text-list">
      <span className="min-w-0 flex-1">
        {sheet.seen ? (
          <Link
            to="/sheet/$revisionId"
            params={{ revisionId: sheet.revision_id }}
            search={inside ? { session: session.line.id } : {}}
            className="code text-plum underline"
          >
            {sheet.number} {sheet.revision}
          </Link>
        ) : (
          <span className="code">
            {sheet.number} {sheet.revision}
          </span>
        )}
        <span className="block truncate" title={sheet.title}>
          {sheet.title}
        </span>
        {sheet.out_why && <span className="block text-brick">Not in it any more. {sheet.out_why}</span>}
        {sheet.not_held_why && (
          <span className="block text-ochre">Not checked out. {sheet.not_held_why}</span>
        )}
      </span>
      <span className="shrink-0 text-right text-second">
        {sheet.marks > 0 && `${sheet.open_marks} of ${counted(sheet.marks, 'mark')} open`}
      </span>
      {session.may.includes('take out') && !sheet.out_why && (
        <Button small aria-label={`Take out ${sheet.number}`} onClick={onOut}>
          Take out …
        </Button>
      )}
    </li>
  )
}
