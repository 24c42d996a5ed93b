import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { useState, type ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { monthAfter, monthWords } from '../../domain/months'
import { Button } from '../../ui/Button'
import { IconButton } from '../../ui/IconButton'
import { NarrowChoice } from '../../ui/Narrow'
import { ErrorNote, Loading } from '../../ui/Notes'

type Month = Schemas['Month']
type Day = Month['days'][number]
type Item = Day['items'][number]
type View = NonNullable<Schemas['MakeFeed']['view']>

const VIEWS: [string, string][] = [
  ['', 'all that I see'],
  ['mine', 'with me'],
  ['copied', 'where I am copied in'],
  ['company', 'of my company'],
]

/** What must be sent in, answered and on site, and what was delivered, in one month. */
export function MonthPage(): ReactNode {
  const { project } = useSeat()
  const { month = '', view = '', company = '' } = useSearch({ from: '/frame/submittals/month' })
  const query = { project_id: project.id, month, view: view as View, company }
  const found = useQuery({
    queryKey: ['submittals', 'month', query],
    queryFn: () => unwrap(api.GET('/api/submittals/month', { params: { query } })),
  })
  if (isLost(found))
    return (
      <div className="p-5">
        <ErrorNote error={found.error} again={() => void found.refetch()} />
      </div>
    )
  if (!found.data) return <Loading what="the month" />
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <Head shown={found.data} view={view} company={company} />
      <Weeks key={found.data.month} shown={found.data} />
    </div>
  )
}

interface HeadProps {
  shown: Month
  view: string
  company: string
}

function Head({ shown, view, company }: HeadProps) {
  const navigate = useNavigate()
  const go = (part: { month?: string; view?: string; company?: string }) =>
    void navigate({
      to: '/submittals/month',
      search: (now) => ({ ...now, ...part }),
    })
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-2 border-b border-line px-4 py-2">
      <h1 className="text-head font-semibold">Submittals</h1>
      <span className="flex items-center gap-1">
        <IconButton
          label="The month before"
          icon={<ChevronLeft size={16} aria-hidden />}
          onClick={() => go({ month: monthAfter(shown.month, -1) })}
        />
        <b role="status" className="w-[130px] text-center">
          {monthWords(shown.month)}
        </b>
        <IconButton
          label="The next month"
          icon={<ChevronRight size={16} aria-hidden />}
          onClick={() => go({ month: monthAfter(shown.month, 1) })}
        />
        <Button small onClick={() => go({ month: shown.today.slice(0, 7) })}>
          This month
        </Button>
      </span>
      <NarrowChoice label="Whose" value={view} choices={VIEWS} onChange={(of) => go({ view: of ?? '' })} />
      <NarrowChoice
        label="From"
        value={company}
        choices={[
          ['', 'from any company'],
          ...shown.companies.map((each) => [each.id, `${each.code} ${each.name}`] as [string, string]),
        ]}
        onChange={(of) => go({ company: of ?? '' })}
      />
      <Link to="/submittals" className="ml-auto inline-flex min-h-6 items-center text-plum underline">
        The log
      </Link>
      {shown.more && <p className="basis-full text-ochre">There is more than is shown: narrow it.</p>}
    </header>
  )
}

const NAMES = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']

function Weeks({ shown }: { shown: Month }) {
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <ol className="grid grid-cols-[repeat(5,minmax(0,1fr))_repeat(2,minmax(0,0.45fr))] max-md:block">
        {NAMES.map((name) => (
          <li
            key={name}
            aria-hidden
            className="truncate border-b border-line px-2 py-1 text-note font-medium text-second max-md:hidden"
          >
            {name}
          </li>
        ))}
        {shown.days.map((day) => (
          <DayCell key={day.on} day={day} today={day.on === shown.today} />
        ))}
      </ol>
    </div>
  )
}

const FEW = 4

function lookOf(day: Day): string {
  if (!day.inside) return 'bg-paper text-second max-md:hidden'
  return day.working ? 'bg-surface' : 'bg-paper'
}

function DayCell({ day, today }: { day: Day; today: boolean }) {
  const [all, setAll] = useState(false)
  const items = all ? day.items : day.items.slice(0, FEW)
  const more = day.items.length - items.length
  const on = new Date(`${day.on}T00:00:00`)
  return (
    <li
      aria-label={on.toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' })}
      className={`min-h-[92px] border-r border-b border-line px-1.5 py-1 text-note max-md:min-h-0 ${lookOf(day)} ${day.items.length ? '' : 'max-md:hidden'}`}
    >
      <p className={today ? 'font-bold text-plum' : 'text-second'}>
        {on.getDate()}
        {(on.getDate() === 1 || today) && (
          <span className="ml-1">{today ? 'today' : on.toLocaleDateString('en-GB', { month: 'short' })}</span>
        )}
        <span className="ml-1 md:hidden">{on.toLocaleDateString('en-GB', { weekday: 'long' })}</span>
      </p>
      <ul className="flex flex-col">
        {items.map((item) => (
          <li key={`${item.id} ${item.what}`}>
            <ItemLink item={item} />
          </li>
        ))}
      </ul>
      {more > 0 && (
        <button type="button" className="min-h-6 text-plum underline" onClick={() => setAll(true)}>
          {more} more
        </button>
      )}
    </li>
  )
}

const WHAT: Record<Item['what'], string> = {
  send: 'send in',
  answer: 'answer',
  site: 'on site',
  delivered: 'delivered',
}

function ItemLink({ item }: { item: Item }) {
  const about = [item.title, item.company, item.with_whom && `with ${item.with_whom}`, item.state]
  return (
    <Link
      to="/submittals/$submittalId"
      params={{ submittalId: item.id }}
      title={about.filter(Boolean).join(', ')}
      className={`flex min-h-6 items-center gap-1 truncate hover:underline ${item.late ? 'text-brick' : ''}`}
    >
      <span className="shrink-0 font-medium">{WHAT[item.what]}</span>
      <span className="code shrink-0">{item.number}</span>
      <span className="truncate text-second">{item.title}</span>
      {item.late && <span className="sr-only">late</span>}
    </Link>
  )
}
