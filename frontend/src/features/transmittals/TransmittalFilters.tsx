import { useNavigate } from '@tanstack/react-router'

import type { Schemas } from '../../api/client'
import { countedOnceRead } from '../../domain/counted'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { isNarrowed, type LogSearch } from './logSearch'

const WAYS = [
  ['', 'sent and received'],
  ['out', 'sent by my company'],
  ['in', 'received by my company'],
]
const STATES = [
  ['', 'in any state'],
  ['waiting', 'not acknowledged'],
  ['overdue', 'answer overdue'],
  ['acknowledged', 'acknowledged by all'],
  ['back', 'mail came back'],
  ['void', 'void'],
]
const NOTHING = {
  words: undefined,
  document: undefined,
  way: undefined,
  state: undefined,
  purpose: undefined,
  company: undefined,
}

interface Props {
  search: LogSearch
  total: number | null
  companies: readonly string[]
  purposes: readonly Schemas['Choice'][]
}

/** The log's filters in one row; they stand in the address, so that a view of it can be sent or kept. */
export function TransmittalFilters({ search, total, companies, purposes }: Props) {
  const navigate = useNavigate()
  const set = (part: LogSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
  return (
    <NarrowRow
      label="Narrow the transmittals"
      count={countedOnceRead(total, 'transmittal')}
      onAll={isNarrowed(search) ? () => set(NOTHING) : undefined}
    >
      <NarrowTyped label="Number or note" value={search.words} onChange={(words) => set({ words })} />
      <NarrowTyped label="Document" value={search.document} onChange={(document) => set({ document })} />
      <NarrowChoice
        label="Way"
        value={search.way}
        choices={WAYS}
        onChange={(way) => set({ way: way as LogSearch['way'] })}
      />
      <NarrowChoice
        label="State"
        value={search.state}
        choices={STATES}
        onChange={(state) => set({ state: state as LogSearch['state'] })}
      />
      <NarrowChoice
        label="Purpose"
        value={search.purpose}
        choices={[['', 'for any purpose'], ...purposes.map((each) => [each.code, each.words])]}
        onChange={(purpose) => set({ purpose })}
      />
      <NarrowChoice
        label="Company"
        value={search.company}
        choices={[['', 'of any company'], ...companies.map((each) => [each, each])]}
        onChange={(company) => set({ company })}
      />
    </NarrowRow>
  )
}
