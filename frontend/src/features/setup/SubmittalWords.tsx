import type { Schemas } from '../../api/client'
import { TextArea } from '../../ui/Field'
import type { Keep } from '../../ui/useKept'

type Set = Schemas['SubmittalSet']

interface Props {
  value: Set
  may: boolean
  keep: Keep
  onChange: (part: Partial<Set>) => void
}

/** By which words a specification is read: one to a line. */
export function SubmittalWords({ value, may, keep, onChange }: Props) {
  const field = (key: string, label: string, words: readonly string[], put: (words: string[]) => void) => (
    <TextArea
      key={key}
      label={label}
      keep={keep}
      rows={5}
      disabled={!may}
      value={words.join('\n')}
      onChange={(event) => put(event.target.value.split('\n'))}
    />
  )
  return (
    <section aria-labelledby="reading-words">
      <h2 id="reading-words" className="mt-5 mb-1 text-body font-semibold">
        How specifications are read
      </h2>
      <p className="mb-2 max-w-[76ch] text-list text-second">
        Words, one to a line, in the singular. An article whose heading has one of the first calls for
        submittals; what stands below it is one, unless it begins with one of the second. A kind is known by
        its own words.
      </p>
      <div className="grid max-w-[1020px] grid-cols-3 gap-3 max-lg:grid-cols-2 max-md:grid-cols-1">
        {field('articles', 'Articles that call for submittals', value.articles, (articles) =>
          onChange({ articles }),
        )}
        {field('aside', 'What begins so is none', value.aside, (aside) => onChange({ aside }))}
        {value.kinds.map((kind, place) =>
          field(`kind ${place}`, kind.words || `Kind ${place + 1}`, kind.asked_as ?? [], (asked_as) =>
            onChange({
              kinds: value.kinds.map((each, at) => (at === place ? { ...each, asked_as } : each)),
            }),
          ),
        )}
      </div>
    </section>
  )
}
