import type { Schemas } from '../api/client'
import { VerdictLetters } from './VerdictLetters'

type Item = Schemas['SubmittalItem']
export type Given = Record<string, string>

interface Props {
  items: readonly Item[]
  verdicts: readonly Schemas['VerdictShown'][]
  /** What counts for an item that has none of its own. */
  overall: string
  given: Given
  onGive: (given: Given) => void
}

/** The verdict of each open item: the one of all, unless it has another. */
export function ItemVerdicts({ items, verdicts, overall, given, onGive }: Props) {
  const open = items.filter((each) => each.is_open)
  if (!open.length) return null
  return (
    <fieldset className="border border-line px-3 py-2">
      <legend className="px-1 text-note font-medium text-second">Each item</legend>
      {open.map((each) => (
        <div key={each.id} className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 py-1">
          <span className="min-w-0 flex-1 text-list">
            {each.title} <span className="code text-second">{each.paragraph}</span>
          </span>
          <VerdictLetters
            name={each.id}
            label={`The verdict on ${each.title}`}
            verdicts={verdicts}
            chosen={given[each.id] ?? overall}
            onChoose={(code) => onGive({ ...given, [each.id]: code })}
          />
        </div>
      ))}
    </fieldset>
  )
}
