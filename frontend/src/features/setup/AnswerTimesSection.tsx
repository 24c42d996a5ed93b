import { useQuery } from '@tanstack/react-query'
import { Trash2 } from 'lucide-react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { isLost } from '../../api/fetched'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Select, TextField } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { SaveBar, Section } from './Section'
import { useRows } from './useRows'
import { useDraft, useSave } from './useSetup'

type Times = Schemas['AnswerTimes']
type Term = Schemas['TermGiven']

const A_TERM: Term = {
  kind: 'review',
  company_id: '',
  days: 14,
  counting: 'calendar',
  moves: false,
  from_hour: null,
  silence: 'nothing',
}

/** Within how long the contract wants answers. */
export function AnswerTimesSection() {
  const { project } = useSeat()
  const times = useQuery({
    queryKey: ['answer-times', project.id],
    queryFn: () =>
      unwrap(
        api.GET('/api/projects/{project_id}/answer-times', { params: { path: { project_id: project.id } } }),
      ),
  })
  const people = useQuery({
    queryKey: ['people', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/projects/{project_id}/people', { params: { path: { project_id: project.id } } })),
  })
  if (isLost(times)) return <ErrorNote error={times.error} again={() => void times.refetch()} />
  if (!times.data || !people.data) return <Loading what="the contract’s times" />
  const companies = people.data.companies.map((each) => ({ code: each.id, words: each.name }))
  return <Form times={times.data} companies={companies} />
}

interface FormProps {
  times: Times
  companies: readonly { code: string; words: string }[]
}

function Form({ times, companies }: FormProps) {
  const { project } = useSeat()
  const draft = useDraft('The contract’s times', times.terms, times.version)
  const save = useSave(draft, (terms, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/answer-times', {
        params: { path: { project_id: project.id } },
        body: { version, terms },
      }),
    ),
  )
  const terms = draft.value
  const { list, change, take, add } = useRows(terms, draft.change, A_TERM)
  return (
    <Section
      title="The contract’s times"
      about="Within how long an answer is due, counted from receipt. A review says this day beside its own, and warns where its path is longer. Nod never sets a verdict by itself."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        {terms.length === 0 && (
          <Empty>The contract’s times are not said yet. Reviews then go by their route alone.</Empty>
        )}
        <ul ref={list} className="flex flex-col">
          {terms.map((term, place) => (
            <TermRow
              key={place}
              keep={draft.kept}
              term={term}
              place={place}
              times={times}
              companies={companies}
              onChange={(part) => change(place, part)}
              onTake={() => take(place)}
            />
          ))}
        </ul>
        {project.leads && (
          <Button small className="mt-2" onClick={add}>
            Add a time
          </Button>
        )}
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}

interface RowProps {
  keep: Parameters<typeof TextField>[0]['keep']
  term: Term
  place: number
  times: Times
  companies: FormProps['companies']
  onChange: (part: Partial<Term>) => void
  onTake: () => void
}

const COUNTING = [
  { code: 'calendar', words: 'calendar days' },
  { code: 'working', words: 'working days' },
]
const HOURS = [
  { code: '', words: 'the day counts' },
  ...[12, 14, 15, 16, 17, 18].map((hour) => ({
    code: String(hour),
    words: `from ${hour}:00, next working day`,
  })),
]

function TermRow({ keep, term, place, times, companies, onChange, onTake }: RowProps) {
  const hour = term.from_hour == null ? '' : String(term.from_hour)
  const hours = HOURS.some((each) => each.code === hour)
    ? HOURS
    : [...HOURS, { code: hour, words: `from ${hour}:00, next working day` }]
  return (
    <li className="flex flex-wrap items-end gap-3 border-b border-line py-2">
      <Select label="For" value={term.kind} onChange={(kind) => onChange({ kind })} choices={times.kinds} />
      <Select
        label="From"
        value={term.company_id ?? ''}
        onChange={(company_id) => onChange({ company_id })}
        choices={[{ code: '', words: 'all other companies' }, ...companies]}
      />
      <TextField
        keep={keep}
        label="Within"
        type="number"
        min={1}
        max={365}
        className="w-[70px]"
        value={String(term.days)}
        onChange={(event) => onChange({ days: Number(event.target.value) })}
      />
      <Select
        label="Counted in"
        value={term.counting ?? 'calendar'}
        onChange={(counting) => onChange({ counting: counting as 'calendar' })}
        choices={COUNTING}
      />
      <Select
        label="Received late in the day"
        value={hour}
        onChange={(next) => onChange({ from_hour: next === '' ? null : Number(next) })}
        choices={hours}
      />
      <Select
        label="Silence"
        value={term.silence ?? 'nothing'}
        onChange={(silence) => onChange({ silence })}
        choices={times.silences}
      />
      <Checkbox
        label="a last day off moves"
        checked={term.moves ?? false}
        onChange={(moves) => onChange({ moves })}
      />
      <IconButton
        label={`Take time ${place + 1} away`}
        onClick={onTake}
        icon={<Trash2 size={14} aria-hidden />}
      />
    </li>
  )
}
