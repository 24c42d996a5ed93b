import { X } from 'lucide-react'

import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { dayText } from '../../domain/dates'
import { usePeople } from '../../ui/usePeopleToChoose'
import type { SubmittalSearch } from './submittalSearch'

interface Props {
  search: SubmittalSearch
  onTakeAway: (part: SubmittalSearch) => void
}

/** What a figure of the analysis led to, each to be taken away. */
export function LookedInto({ search, onTakeAway }: Props) {
  const { project } = useSeat()
  const people = usePeople()
  const { answered_by: by, waits_for: waits, took, late_on: on } = search
  const named = (id: string) => people.data?.companies.find((each) => each.id === id)?.name ?? 'one company'
  const shown: [string, SubmittalSearch][] = []
  if (by) shown.push([`answered by ${named(by)}`, { answered_by: undefined }])
  if (waits) shown.push([`waiting for ${named(waits)}`, { waits_for: undefined }])
  if (took) shown.push([`settled in ${counted(took, 'round')}`, { took: undefined }])
  if (on) shown.push([`late on ${dayText(on, project.today)}`, { late_on: undefined }])
  return shown.map(([words, without]) => (
    <button
      key={words}
      type="button"
      title="Take this away"
      onClick={() => onTakeAway(without)}
      className="inline-flex min-h-7 items-center gap-1 border border-plum bg-plum-tint px-2 text-list text-plum"
    >
      {words} <X size={13} aria-hidden />
      <span className="sr-only">Take this away</span>
    </button>
  ))
}
