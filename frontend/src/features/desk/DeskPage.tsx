import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'

import { counted } from '../../domain/counted'
import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Due, When } from '../../ui/Standing'
import { GivenUpTray } from './GivenUpTray'
import { isLost } from '../../api/fetched'

type Line = Schemas['DeskLine']

/** Four trays: what is mine, what comes, what I wait for, what will be late. */
export function DeskPage() {
  const { project, me } = useSeat()
  const desk = useQuery({
    queryKey: ['desk', project.id],
    queryFn: () => unwrap(api.GET('/api/desk', { params: { query: { project_id: project.id } } })),
  })
  if (isLost(desk)) return <ErrorNote error={desk.error} again={() => void desk.refetch()} />
  if (!desk.data) return <Loading what="your desk" />
  const { yours_now, coming, you_wait_for, late, arrived_today } = desk.data
  const keeps = project.level === 'keep'
  return (
    <div className="h-full overflow-auto px-3 py-4 md:px-6 md:py-5">
      <div className="mx-auto max-w-[1240px]">
        <header className="mb-4 flex items-baseline justify-between gap-4">
          <h1 className="text-title font-semibold">{me.person.name}’s desk</h1>
          {keeps && (
            <p className="text-second">
              {arrived_today === 0
                ? 'Nothing arrived today'
                : `${counted(arrived_today, 'file')} arrived today`}
            </p>
          )}
        </header>
        <GivenUpTray />
        <Tray title="Yours now" lines={yours_now} empty="Nothing waits on you." act />
        <Tray
          title="Coming to you"
          lines={coming}
          empty="Nothing is on its way to you."
          dueWords="Expected"
        />
        <Tray title="You wait for" lines={you_wait_for} empty="You wait for nobody." />
        <Tray
          title="Late unless somebody acts"
          lines={late}
          empty={
            keeps
              ? 'Nothing in the project is late or due by tomorrow.'
              : 'Nothing of yours is late or due by tomorrow.'
          }
        />
      </div>
    </div>
  )
}

interface TrayProps {
  title: string
  lines: Line[]
  empty: string
  act?: boolean
  dueWords?: string
}

const COLUMNS =
  'grid items-center gap-x-3 md:min-w-[840px] md:grid-cols-[116px_minmax(120px,1.4fr)_minmax(90px,1fr)_minmax(100px,1fr)_72px_124px_136px]'
/** On a phone a line is a slip: what and its act, then what is known of it. */
const SLIP = 'max-md:grid-cols-[minmax(0,1fr)_auto] max-md:gap-y-0.5 max-md:py-2'

function Tray({ title, lines, empty, act = false, dueWords = 'Due' }: TrayProps) {
  return (
    <section aria-label={title} data-wide className="mb-5 border md:overflow-x-auto border-line bg-surface">
      <header className={`${COLUMNS} h-9 border-b border-line px-4`}>
        <h2 className="text-read md:col-span-2 font-semibold">
          {title} <span className="font-normal text-second">{lines.length || ''}</span>
        </h2>
        {lines.length > 0 && (
          <div className="hidden text-note font-semibold text-second md:contents" aria-hidden>
            <span>What</span>
            <span>With</span>
            <span>Since</span>
            <span>{dueWords}</span>
            <span />
          </div>
        )}
      </header>
      {lines.length === 0 && <p className="px-4 py-2.5 text-second">{empty}</p>}
      <ul>
        {lines.map((line) => (
          <li
            key={line.kind + line.id + line.detail}
            className={`${COLUMNS} ${SLIP} min-h-9 border-b border-line/60 px-4 py-1 text-list last:border-b-0`}
          >
            <span className="code max-md:order-2 max-md:col-span-2">{line.number || 'Intake'}</span>
            <span className="truncate font-medium max-md:order-1" title={line.name}>
              {line.name}
            </span>
            <span className="truncate text-second max-md:order-2 max-md:col-span-2" title={line.detail}>
              {line.detail}
            </span>
            <span className="truncate max-md:order-3" title={line.standing.with_whom}>
              {line.standing.with_whom}
            </span>
            <span className="max-md:order-4 max-md:col-span-2">
              {line.standing.since_at && <span className="text-second md:hidden">since </span>}
              <When at={line.standing.since_at} />
            </span>
            <span className="max-md:order-3">
              <Due standing={line.standing} />
            </span>
            <Link
              to={line.link}
              className={`inline-flex min-h-6 items-center justify-self-end rounded-[3px] border px-2.5 py-0.5 max-md:order-1 text-list font-medium whitespace-nowrap ${act ? 'border-plum bg-plum text-on-plum hover:opacity-90' : 'border-line bg-surface hover:border-second'}`}
            >
              {line.act}
              <span className="sr-only">
                : {line.number} {line.name}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  )
}
