import { useNavigate } from '@tanstack/react-router'

import { countedOnceRead } from '../../domain/counted'
import { Checkbox } from '../../ui/Checkbox'
import { NarrowChoice, NarrowRow, NarrowTyped } from '../../ui/Narrow'
import { isNarrowed, type LogSearch } from './logSearch'

const WHOSE = [
  ['', 'of everybody'],
  ['with_me', 'with me'],
  ['my_company', 'with my company'],
  ['started', 'started by me'],
]
const STATES = [
  ['', 'in any state'],
  ['running', 'running'],
  ['closed', 'closed'],
  ['cancelled', 'cancelled'],
  ['recalled', 'recalled'],
]

const ALL = {
  words: undefined,
  whose: undefined,
  state: undefined,
  late: undefined,
  route: undefined,
  document: undefined,
}

interface Props {
  search: LogSearch
  routes: readonly string[]
  total: number | null
}

/** The log's filters in one row; they stand in the address, so that a view of it can be sent or kept. */
export function LogFilters({ search, routes, total }: Props) {
  const navigate = useNavigate()
  const set = (part: LogSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
  return (
    <NarrowRow
      label="Narrow the reviews"
      count={countedOnceRead(total, 'review')}
      onAll={isNarrowed(search) ? () => set(ALL) : undefined}
    >
      <NarrowTyped label="Number or name" value={search.words} onChange={(words) => set({ words })} />
      <NarrowTyped label="Document" value={search.document} onChange={(document) => set({ document })} />
      <NarrowChoice
        label="Whose"
        value={search.whose}
        choices={WHOSE}
        onChange={(whose) => set({ whose: whose as LogSearch['whose'] })}
      />
      <NarrowChoice
        label="State"
        value={search.state}
        choices={STATES}
        onChange={(state) => set({ state: state as LogSearch['state'] })}
      />
      <NarrowChoice
        label="Route"
        value={search.route}
        choices={[['', 'on any route'], ...routes.map((each) => [each, each])]}
        onChange={(route) => set({ route })}
      />
      <Checkbox
        label="late"
        checked={search.late ?? false}
        onChange={(late) => set({ late: late || undefined })}
      />
    </NarrowRow>
  )
}
