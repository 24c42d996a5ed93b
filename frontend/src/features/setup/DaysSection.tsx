import { useMutation, useQuery } from '@tanstack/react-query'
import { Trash2 } from 'lucide-react'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Select, TextField } from '../../ui/Field'
import { Input } from '../../ui/Input'
import { ErrorNote } from '../../ui/Notes'
import { IconButton } from '../../ui/IconButton'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'
import { DateField } from '../../ui/DateField'
import { useNewLine } from '../../ui/useNewLine'

type Holiday = Schemas['Holiday']

const WEEK = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']

/** Working days and holidays: what due dates and lateness are counted in. */
export function DaysSection() {
  return <WithSetup what="the working days" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const { list, added } = useNewLine<HTMLUListElement>()
  const draft = useDraft(
    'Working days',
    { working_weekdays: setup.working_weekdays, holidays: setup.holidays },
    setup.version,
  )
  const save = useSave(draft, (value, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/days', {
        params: { path: { project_id: project.id } },
        body: { version, ...value },
      }),
    ),
  )
  const { working_weekdays: weekdays, holidays } = draft.value
  const setHolidays = (next: Holiday[]) =>
    draft.change({
      working_weekdays: weekdays,
      holidays: [...next].sort((a, b) => a.on.localeCompare(b.on)),
    })
  const change = (place: number, part: Partial<Holiday>) =>
    draft.change({
      working_weekdays: weekdays,
      holidays: holidays.map((each, at) => (at === place ? { ...each, ...part } : each)),
    })
  return (
    <Section
      title="Working days"
      about="Dates that are set stay. Those to come, and how late a thing is, count by these days."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        <fieldset className="mb-4">
          <legend className="mb-1 font-semibold">Working days of the week</legend>
          <div className="flex flex-wrap gap-4">
            {WEEK.map((day, place) => (
              <Checkbox
                key={day}
                label={day}
                checked={weekdays.includes(place)}
                onChange={(on) =>
                  draft.change({
                    holidays,
                    working_weekdays: on
                      ? [...weekdays, place].sort()
                      : weekdays.filter((each) => each !== place),
                  })
                }
              />
            ))}
          </div>
        </fieldset>
        <h2 className="mb-1 font-semibold">Holidays</h2>
        <FromCalendar
          today={project.today}
          onFound={(found) => {
            const known = new Set(holidays.map((each) => each.on))
            setHolidays([...holidays, ...found.filter((each) => !known.has(each.on))])
          }}
        />
        <ul ref={list} className="mt-3 grid max-w-[900px] gap-x-6 md:grid-cols-2">
          {holidays.map((holiday, place) => (
            <li key={place} className="flex items-center gap-2 py-0.5">
              <DateField
                keep={draft.kept}
                small
                hideLabel
                label={`Day ${place + 1}, ${holiday.name}`}
                className="w-[150px]"
                value={holiday.on}
                onChange={(on) => on && change(place, { on })}
              />
              <Input
                keep={draft.kept}
                small
                aria-label={`Name of the holiday on ${holiday.on}`}
                className="min-w-0 flex-1"
                value={holiday.name}
                onChange={(event) => change(place, { name: event.target.value })}
              />
              <IconButton
                label={`Take ${holiday.name} away`}
                onClick={() => setHolidays(holidays.filter((_, at) => at !== place))}
                icon={<Trash2 size={14} />}
              />
            </li>
          ))}
        </ul>
        {holidays.length === 0 && <p className="mt-2 text-second">No holidays yet.</p>}
        <Button
          small
          className="mt-2"
          onClick={() => {
            added()
            setHolidays([...holidays, { on: project.today, name: '' }])
          }}
        >
          Add a holiday
        </Button>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}

/** Published holidays of a country, as a beginning: they are gone through before they are saved. */
function FromCalendar({ today, onFound }: { today: string; onFound: (found: Holiday[]) => void }) {
  const year = Number(today.slice(0, 4))
  const [country, setCountry] = useState('')
  const [region, setRegion] = useState('')
  const [years, setYears] = useState(3)
  const countries = useQuery({
    queryKey: ['calendars'],
    queryFn: () => unwrap(api.GET('/api/calendars')),
    staleTime: Infinity,
  })
  const fetch = useMutation({
    mutationFn: () =>
      unwrap(
        api.GET('/api/calendars/holidays', {
          params: { query: { country, region, first_year: year, last_year: year + years - 1 } },
        }),
      ),
    onSuccess: (found) => onFound(found.holidays),
  })
  const chosen = countries.data?.countries.find((each) => each.code === country)
  return (
    <div className="flex flex-wrap items-end gap-3 border border-line bg-surface px-3 py-2">
      <Select
        label="Begin with the calendar of"
        className="w-[200px]"
        value={country}
        onChange={(code) => {
          setCountry(code)
          setRegion('')
        }}
        choices={[
          { code: '', words: 'a country' },
          ...(countries.data?.countries ?? []).map((each) => ({ code: each.code, words: each.name })),
        ]}
      />
      {chosen && chosen.regions.length > 0 && (
        <Select
          label="Region"
          className="w-[130px]"
          value={region}
          onChange={setRegion}
          choices={[
            { code: '', words: 'all of it' },
            ...chosen.regions.map((code) => ({ code, words: code })),
          ]}
        />
      )}
      <TextField
        keep="passing"
        label={`Years from ${year}`}
        type="number"
        min={1}
        max={10}
        className="w-[110px]"
        value={years}
        onChange={(event) => setYears(Math.max(1, Math.min(10, Number(event.target.value) || 1)))}
      />
      <Button
        busy={fetch.isPending}
        why={!country && 'Choose a country first.'}
        onClick={() => fetch.mutate()}
      >
        Add its holidays
      </Button>
      <p className="pb-1.5 text-note text-second">
        {fetch.data ? `${fetch.data.holidays.length} found. ` : ''}Published calendars differ: go through
        them.
      </p>
      <ErrorNote error={fetch.error} />
    </div>
  )
}
