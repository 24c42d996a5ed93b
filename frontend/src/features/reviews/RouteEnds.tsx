import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { ChooseMany, type Choosable } from '../../ui/ChooseMany'
import { Select, TextField } from '../../ui/Field'
import type { Kept } from '../../ui/useKept'
import { keyOf, namedOf } from '../../ui/usePeopleToChoose'
import type { Tried } from './useRouteSteps'

type End = Schemas['EndGiven']
export type Ends = Record<string, End>

interface Props {
  keep: Kept
  ends: Ends
  /** Names of the sets whose verdicts the route gives. */
  sets: readonly string[]
  whom: readonly Choosable[]
  tried: Tried
  onChange: (ends: Ends) => void
}

const NOTHING: End = {
  status: '',
  fields: {},
  tell: [],
  note: '',
  copy_to: '',
  with_marks: false,
  draft: false,
}

/** What is done with a document that leaves the review, by its verdict. */
export function RouteEnds({ keep, ends, sets, whom, tried, onChange }: Props) {
  const { project } = useSeat()
  const given = project.verdict_set.filter((each) => sets.includes(each.of_set) || each.code in ends)
  return (
    <section aria-label="At the end" className="mt-4 border-2 border-second bg-surface">
      <h2 className="border-b border-line px-3 py-1.5 font-semibold">
        At the end{' '}
        <span className="font-normal text-second">what is done with a document, by its verdict</span>
      </h2>
      <ul>
        {given.map((verdict) => (
          <EndRow
            key={verdict.code}
            keep={keep}
            verdict={verdict}
            end={{ ...NOTHING, ...ends[verdict.code] }}
            whom={whom}
            said={tried?.ends.find((each) => each.verdict === verdict.code)?.words ?? ''}
            onChange={(part) =>
              onChange({ ...ends, [verdict.code]: { ...NOTHING, ...ends[verdict.code], ...part } })
            }
          />
        ))}
      </ul>
      {tried?.end_trouble && <p className="px-3 py-1.5 font-semibold text-brick">{tried.end_trouble}</p>}
    </section>
  )
}

interface RowProps {
  keep: Kept
  verdict: Schemas['VerdictShown']
  end: End
  whom: readonly Choosable[]
  said: string
  onChange: (part: Partial<End>) => void
}

function EndRow({ keep, verdict, end, whom, said, onChange }: RowProps) {
  const { project } = useSeat()
  const { code, words } = verdict
  const statuses = Object.entries(project.statuses).map(([status, meaning]) => ({
    code: status,
    words: `${status}  ${meaning}`,
  }))
  const told = end.tell ?? []
  return (
    <li className="border-b border-line px-3 py-2 last:border-b-0">
      <div className="grid grid-cols-[130px_minmax(0,1fr)_minmax(0,1.4fr)] items-start gap-3 max-md:grid-cols-1">
        <p className="pt-5 max-md:pt-0">
          <span className="font-bold text-plum">{code}</span> {words}
        </p>
        <div className="flex flex-col gap-2">
          <Select
            label={`Status after ${code}`}
            value={end.status ?? ''}
            onChange={(status) => onChange({ status })}
            choices={[{ code: '', words: 'stays as it is' }, ...statuses]}
          />
          <EndFields
            keep={keep}
            code={code}
            fields={end.fields ?? {}}
            onChange={(fields) => onChange({ fields })}
          />
          <Checkbox
            label={`a transmittal is drafted after ${code}`}
            checked={end.draft ?? false}
            onChange={(draft) => onChange({ draft })}
          />
          {verdict.may_be_used && <EndCopy code={code} end={end} onChange={onChange} />}
        </div>
        <div className="flex flex-col gap-2">
          <ChooseMany
            label={`Who is told of ${code}`}
            choices={whom}
            chosen={told.map(keyOf)}
            onChange={(next) => onChange({ tell: next.map(namedOf) })}
          />
          {told.length > 0 && (
            <TextField
              keep={keep}
              label={`Note to those told of ${code}`}
              value={end.note ?? ''}
              onChange={(event) => onChange({ note: event.target.value })}
            />
          )}
        </div>
      </div>
      {said && <p className="mt-1 text-note text-second">{said}</p>}
    </li>
  )
}

/** Into which folder a copy goes, so that whoever sees that folder alone sees what was accepted and nothing else. */
function EndCopy({ code, end, onChange }: Pick<RowProps, 'end' | 'onChange'> & { code: string }) {
  const columns = useRegisterColumns()
  const folders = columns.find((each) => each.key === 'folder')?.choices ?? []
  const gone = end.copy_to && !folders.some((each) => each.code === end.copy_to)
  return (
    <>
      <Select
        label={`Copied after ${code} into`}
        value={end.copy_to}
        onChange={(copy_to) => onChange({ copy_to, with_marks: end.with_marks && copy_to !== '' })}
        choices={[
          { code: '', words: 'no folder' },
          ...(gone ? [{ code: end.copy_to, words: 'a folder that is gone' }] : []),
          ...folders,
        ]}
      />
      {end.copy_to && (
        <Checkbox
          label={`with its ink after ${code}`}
          checked={end.with_marks}
          onChange={(with_marks) => onChange({ with_marks })}
        />
      )}
    </>
  )
}

interface FieldsProps {
  keep: Kept
  code: string
  fields: Record<string, string>
  onChange: (fields: Record<string, string>) => void
}

/** The project's own fields that are set; nothing where it has none. */
function EndFields({ keep, code, fields, onChange }: FieldsProps) {
  const own = useOwnFields()
  const left = own.filter((each) => !(each.key in fields))
  const first = left[0]
  const put = (key: string, value: string) => onChange({ ...fields, [key]: value })
  return (
    <>
      {Object.entries(fields).map(([key, value]) => {
        const column = own.find((each) => each.key === key)
        const head = column?.head ?? 'A field that is gone'
        const drop = () =>
          onChange(Object.fromEntries(Object.entries(fields).filter(([other]) => other !== key)))
        return (
          <div key={key} className="flex items-end gap-2">
            {column && column.choices.length > 0 ? (
              <Select
                label={`${head} after ${code}`}
                className="min-w-0 flex-1"
                value={value}
                onChange={(next) => put(key, next)}
                choices={[{ code: '', words: 'empty' }, ...column.choices]}
              />
            ) : (
              <TextField
                keep={keep}
                label={`${head} after ${code}`}
                value={value}
                onChange={(event) => put(key, event.target.value)}
              />
            )}
            <Button small onClick={drop}>
              Leave it
            </Button>
          </div>
        )
      })}
      {first && (
        <Select
          hideLabel
          label={`A field to set after ${code}`}
          value=""
          onChange={(key) => put(key, '')}
          choices={[
            { code: '', words: 'set a field …' },
            ...left.map((each) => ({ code: each.key, words: each.head })),
          ]}
        />
      )}
    </>
  )
}

function useOwnFields() {
  return useRegisterColumns().filter((each) => each.key.startsWith('field:'))
}

function useRegisterColumns() {
  const { project } = useSeat()
  const columns = useQuery({
    queryKey: ['register-columns', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/register/columns', { params: { query: { project_id: project.id } } })),
    staleTime: 30_000,
  })
  return columns.data?.columns ?? []
}
