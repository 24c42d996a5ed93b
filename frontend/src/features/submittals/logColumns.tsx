import type { ColumnsChosen } from '../../ui/ColumnsDialog'
import type { Column } from '../../ui/ListTable'
import { slipsOf } from '../../ui/slips'
import { VerdictMark } from '../../ui/Stamp'
import { Day, Due, When } from '../../ui/Standing'
import { Float, Rail } from './Rail'
import type { Line } from './useSubmittals'

const ALL: Column<Line>[] = [
  {
    key: 'number',
    head: 'Number',
    width: '118px',
    sorts: true,
    cell: (row) => <span className="code whitespace-nowrap">{row.shown}</span>,
  },
  {
    key: 'title',
    head: 'Title',
    width: 'minmax(150px, 1.2fr)',
    cell: (row) => <span title={row.title}>{row.title}</span>,
  },
  {
    key: 'company',
    head: 'From',
    width: '52px',
    cell: (row) => <span title={row.company_name}>{row.company}</span>,
  },
  {
    key: 'with',
    head: 'With',
    width: '132px',
    cell: (row) => <span title={row.standing.with_whom}>{row.standing.with_whom}</span>,
  },
  { key: 'due', head: 'Due', width: '112px', sorts: true, cell: (row) => <Due standing={row.standing} /> },
  { key: 'state', head: 'State', width: '100px', cell: (row) => <StateShown row={row} /> },
  { key: 'float', head: 'Float', width: '74px', sorts: true, cell: (row) => <Float line={row} /> },
  {
    key: 'rail',
    head: 'Until the day on site',
    width: 'minmax(130px, 1fr)',
    cell: (row) => row.rail && <Rail rail={row.rail} float={row.float_days ?? 0} />,
  },
  {
    key: 'required',
    head: 'On site',
    width: '98px',
    sorts: true,
    cell: (row) => <Day on={row.delivered_on ?? row.rail?.required_on ?? row.required_on} />,
  },
  { key: 'since', head: 'Since', width: '62px', cell: (row) => <When at={row.standing.since_at} /> },
  {
    key: 'kind',
    head: 'Kind',
    width: '96px',
    cell: (row) => <span title={row.kind_words}>{row.kind_words}</span>,
  },
  {
    key: 'section',
    head: 'Section',
    width: '84px',
    sorts: true,
    cell: (row) => <span className="code">{row.section}</span>,
  },
  {
    key: 'latest',
    head: 'Send in by',
    width: '96px',
    sorts: true,
    cell: (row) => <Day on={row.latest_on} />,
  },
  { key: 'forecast', head: 'Forecast', width: '96px', cell: (row) => <Day on={row.forecast_on} /> },
  {
    key: 'person',
    head: 'Asked',
    width: '132px',
    cell: (row) => row.person && <span title={row.person.name}>{row.person.name}</span>,
  },
  {
    key: 'location',
    head: 'Location',
    width: '120px',
    cell: (row) => <span title={row.location}>{row.location}</span>,
  },
  {
    key: 'milestone',
    head: 'Milestone',
    width: '96px',
    cell: (row) => <span className="code">{row.milestone}</span>,
  },
]
const SELDOM = new Set(['latest', 'forecast', 'person', 'location', 'milestone'])
const COLUMNS = ALL.filter((column) => !SELDOM.has(column.key))

export const USUAL = COLUMNS.map((column) => column.key)

const PX = /(\d+)px/

/** All there are, with their widths in px, or the least of those that grow. */
export const CHOICES = ALL.map(({ key, head, width }) => ({ key, head, width: Number(PX.exec(width)?.[1]) }))

/** Those that are shown: the usual ones or those that were chosen; few beside a dossier. */
export function columnsShown({ columns, frozen = 0 }: ColumnsChosen, beside: boolean): Column<Line>[] {
  const shown = columns?.flatMap(([key, px]) => {
    const column = ALL.find((each) => each.key === key)
    return column ? [px ? { ...column, width: `${px}px` } : column] : []
  })
  const all = shown?.length ? shown : COLUMNS
  if (beside) return all.filter((column) => NARROW.has(column.key))
  return all.map((column, place) =>
    place < frozen ? { ...column, width: `${PX.exec(column.width)?.[1] ?? 120}px` } : column,
  )
}

export const SLIPS = slipsOf(COLUMNS, {
  what: 'title',
  beside: ['float'],
  below: ['number', 'with', 'due', 'state'],
})
const NARROW = new Set(['number', 'title', 'state', 'float'])
function StateShown({ row }: { row: Line }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      {row.verdict && <VerdictMark code={row.verdict} />}
      <span className={row.state === 'void' ? 'text-second line-through' : ''}>{row.state}</span>
    </span>
  )
}
