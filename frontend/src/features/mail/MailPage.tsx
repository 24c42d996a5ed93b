import { useQuery } from '@tanstack/react-query'
import { Link, useSearch } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { ThingLink } from '../../ui/ThingLink'
import { MailReading } from './MailReading'
import { stateWords } from './mailWords'
import { MAIL_TABS, type MailTab } from './mailSearch'

type Line = Schemas['MailLine']

const WORDS: Record<MailTab, string> = { held: 'Held', taken: 'Taken in', back: 'Came back' }
const NOTHING: Record<MailTab, string> = {
  held: 'Nothing is held. Mail that answers what was sent from here goes where it belongs by itself.',
  taken: 'No mail has come in yet.',
  back: 'No mail about this project came back.',
}

/** The mail of a project: what is held and why, what became of the rest, what did not reach its reader. */
export function MailPage() {
  const { project } = useSeat()
  const { tab = 'held', mail } = useSearch({ from: '/frame/mail' })
  const box = useQuery({
    queryKey: ['mailbox', project.id, tab],
    queryFn: () => unwrap(api.GET('/api/mail', { params: { query: { project_id: project.id, tab } } })),
  })
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-baseline gap-x-6 gap-y-1 border-b border-line px-4 py-2.5">
        <h1 className="text-head font-semibold">Mail</h1>
        <nav aria-label="Which mail" className="flex gap-4">
          {MAIL_TABS.map((each) => (
            <Link
              key={each}
              to="/mail"
              search={{ tab: each }}
              aria-current={each === tab ? 'page' : undefined}
              className="min-h-6 min-w-6 border-b-2 border-transparent text-list text-second aria-[current]:border-plum aria-[current]:font-semibold aria-[current]:text-ink"
            >
              {WORDS[each]}
              {each === 'held' && box.data ? ` ${box.data.held || ''}` : ''}
            </Link>
          ))}
        </nav>
        {box.data && (
          <p className="ml-auto text-list text-second">
            Mail to <span className="code text-ink select-all">{box.data.address}</span> comes in here.
          </p>
        )}
      </header>
      <ErrorNote error={box.error} again={() => void box.refetch()} />
      {!box.data && !box.error && <Loading what="the mail" />}
      {box.data && tab === 'back' && <CameBack lines={box.data.back} />}
      {box.data && tab !== 'back' && <Came lines={box.data.mails} tab={tab} chosen={mail} />}
    </div>
  )
}

function Came({ lines, tab, chosen }: { lines: Line[]; tab: MailTab; chosen: string | undefined }) {
  // One that was just decided stays open, though it stands in another list now.
  const shown = chosen ?? lines[0]?.id
  if (!lines.length && !chosen) return <Empty>{NOTHING[tab]}</Empty>
  return (
    <div className="flex min-h-0 flex-1 flex-col md:flex-row">
      <ul
        aria-label={WORDS[tab]}
        className="max-h-[40%] shrink-0 overflow-auto border-b border-line md:max-h-none md:w-[400px] md:border-r md:border-b-0"
      >
        {!lines.length && <li className="px-4 py-2 text-second">{NOTHING[tab]}</li>}
        {lines.map((each) => (
          <li key={each.id}>
            <Link
              to="/mail"
              search={{ tab, mail: each.id }}
              aria-current={each.id === shown ? 'true' : undefined}
              className="block border-b border-line/60 px-4 py-2 text-list hover:bg-surface aria-[current]:bg-plum-tint"
            >
              <span className="flex justify-between gap-2">
                <span className="truncate font-medium">
                  {each.from_name || each.from_email || 'no sender'}
                </span>
                <span className="shrink-0 text-second">
                  <When at={each.arrived_at} time />
                </span>
              </span>
              <span className="block truncate">{each.subject || 'no subject'}</span>
              <span className="block truncate text-second">{each.why || stateWords(each)}</span>
            </Link>
          </li>
        ))}
      </ul>
      {shown && <MailReading key={shown} mailId={shown} />}
    </div>
  )
}

function CameBack({ lines }: { lines: Schemas['CameBack'][] }) {
  if (!lines.length) return <Empty>{NOTHING.back}</Empty>
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <table className="w-full min-w-[720px] text-list">
        <thead className="border-b border-second/40 text-left text-note text-second">
          <tr>
            <th className="py-1 font-semibold">To</th>
            <th className="font-semibold">Address</th>
            <th className="font-semibold">About</th>
            <th className="font-semibold">Written</th>
            <th className="font-semibold">Came back</th>
            <th className="font-semibold">Because</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((each) => (
            <tr key={each.id} className="border-b border-line/60">
              <td className="py-1.5 font-medium">
                {each.to.name} <span className="code text-second">{each.to.company}</span>
              </td>
              <td>{each.email}</td>
              <td>
                {each.thing ? (
                  <ThingLink thing={each.thing} />
                ) : (
                  each.subject || <span className="text-second">several things</span>
                )}
              </td>
              <td>
                <When at={each.written_at} time />
              </td>
              <td>
                <When at={each.came_back_at} time />
              </td>
              <td className="text-brick">{each.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
