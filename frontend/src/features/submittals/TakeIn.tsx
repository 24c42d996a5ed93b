import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { floatChange } from '../../domain/floats'
import { Select } from '../../ui/Field'
import { ListIn, type ListField } from '../../ui/ListIn'
import { useAfterAct } from './useSubmittals'

type Read = Schemas['SubmittalsTried']
type Row = Schemas['RowTaken']
type Purpose = 'log' | 'dates'

const DATES: ListField[] = [
  { field: 'number', words: 'Number' },
  { field: 'milestone', words: 'Activity' },
  { field: 'title', words: 'Title', none: 'not by title' },
  { field: 'required_on', words: 'Required on site' },
]
const LOG: ListField[] = [
  { field: 'number', words: 'Number', none: 'the next ones' },
  { field: 'title', words: 'Title' },
  { field: 'kind', words: 'Kind' },
  { field: 'company', words: 'Responsible' },
  { field: 'section', words: 'Section', seldom: true },
  { field: 'paragraph', words: 'Paragraph', seldom: true },
  { field: 'required_on', words: 'Required on site' },
  { field: 'lead', words: 'Lead time' },
  { field: 'lead_in', words: 'Lead time is in', none: 'working days', seldom: true },
  { field: 'approver', words: 'To answer it', seldom: true },
  { field: 'review_days', words: 'Review', none: 'as the project has it', seldom: true },
  { field: 'rounds', words: 'Rounds', none: '1', seldom: true },
  { field: 'preparation', words: 'Preparation', none: 'as the project has it', seldom: true },
  { field: 'planned_on', words: 'Planned send-in', seldom: true },
  { field: 'description', words: 'Description', seldom: true },
  { field: 'reference', words: 'Reference', seldom: true },
  { field: 'category', words: 'Category', seldom: true },
  { field: 'location', words: 'Location', seldom: true },
  { field: 'milestone', words: 'Milestone', seldom: true },
]

const ABOUT: Record<Purpose, string> = {
  log: 'A spreadsheet (XLSX) or CSV. A row with a number that there is changes that submittal; the others are new. An empty cell leaves what is there. States, files and answers are not taken from a list.',
  dates:
    'A spreadsheet (XLSX) or CSV with the days things are needed on site. A row is matched by the submittal’s number, its activity, or its title. Nothing is made, only days move.',
}

interface Props {
  onClose: () => void
}

/** A log, or the days of a schedule, out of a spreadsheet; what it does to float is seen before it is kept. */
export function TakeIn({ onClose }: Props) {
  const { project } = useSeat()
  const [purpose, setPurpose] = useState<Purpose>('log')
  const onSettled = useAfterAct()
  return (
    <ListIn<Read>
      key={purpose}
      title="Take in a list of submittals"
      about={ABOUT[purpose]}
      address={`/api/submittals/list?project_id=${project.id}&purpose=${purpose}`}
      fields={purpose === 'log' ? LOG : DATES}
      said={(found) => <Said found={found} purpose={purpose} />}
      more={(found) => <Rows found={found} />}
      keep={(found) => `Keep ${counted(found.new + found.changed, 'submittal')}`}
      why={(found) => found.new + found.changed === 0 && 'Nothing in it is new or changed.'}
      onKept={() => {
        void onSettled()
        onClose()
      }}
      onClose={onClose}
    >
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <Select
          label="What it is"
          className="w-[240px]"
          value={purpose}
          onChange={(value) => setPurpose(value === 'dates' ? 'dates' : 'log')}
          choices={[
            { code: 'log', words: 'A log of submittals' },
            { code: 'dates', words: 'Days of the schedule' },
          ]}
        />
        {purpose === 'log' && (
          <a
            className="flex min-h-8 items-center text-plum underline"
            href={`/api/submittals/template?project_id=${project.id}`}
            download
          >
            A spreadsheet to fill in, with this project’s codes
          </a>
        )}
      </div>
    </ListIn>
  )
}

function Said({ found, purpose }: { found: Read; purpose: Purpose }) {
  return (
    <>
      {purpose === 'log' && (
        <>
          <b>{found.new}</b> new,{' '}
        </>
      )}
      <b>{found.changed}</b> changed, {found.same} as they are,{' '}
      {purpose === 'dates' && `${found.unmatched} of no submittal, `}
    </>
  )
}

/** What would be new and what would change, those that lose the most float on top. */
function Rows({ found }: { found: Read }) {
  if (!found.lines.length) return null
  return (
    <section aria-label="What would change" className="flex flex-col gap-1">
      <p className="text-second">
        Of these, {found.late_before} {found.late_before === 1 ? 'is' : 'are'} late now,{' '}
        <b className={found.late_after > found.late_before ? 'text-brick' : ''}>{found.late_after}</b> would
        be.
      </p>
      <div className="max-h-[260px] overflow-auto border border-line">
        <table className="w-full min-w-[640px] text-list">
          <thead className="sticky top-0 bg-surface text-left text-note text-second">
            <tr>
              <th className="w-[50px] px-2 font-semibold">Row</th>
              <th className="w-[110px] px-2 font-semibold">Number</th>
              <th className="px-2 font-semibold">Title</th>
              <th className="w-[60px] px-2 font-semibold">From</th>
              <th className="w-[32%] px-2 font-semibold">What changes</th>
              <th className="w-[130px] px-2 font-semibold">Float, working days</th>
            </tr>
          </thead>
          <tbody>
            {found.lines.map((line) => (
              <tr key={line.at} className="border-t border-line/70 align-top">
                <td className="px-2">{line.at}</td>
                <td className="code px-2">{line.number || 'the next'}</td>
                <td className="px-2">{line.title}</td>
                <td className="px-2">{line.company}</td>
                <td className="px-2">
                  <Changes line={line} />
                </td>
                <td className={`px-2 ${(line.float_after ?? 0) < 0 ? 'font-semibold text-brick' : ''}`}>
                  {floatChange(line.float_before, line.float_after, line.is_new)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {found.more_lines > 0 && <p className="text-second">and {counted(found.more_lines, 'more row')}.</p>}
    </section>
  )
}

function Changes({ line }: { line: Row }) {
  if (line.is_new) return <>new</>
  return (
    <ul>
      {line.changes.map((each) => (
        <li key={each.field}>
          {each.field}: {each.before ? <s className="text-second">{each.before}</s> : 'nothing'} →{' '}
          <span className="whitespace-nowrap">{each.after}</span>
        </li>
      ))}
    </ul>
  )
}
