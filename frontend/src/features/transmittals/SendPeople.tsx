import type { ReactNode } from 'react'

import type { Schemas } from '../../api/client'
import { ChooseMany } from '../../ui/ChooseMany'

interface Props {
  /** Asks the matrix. */
  ask: ReactNode
  roles: readonly Schemas['Choice'][]
  people: readonly Schemas['Addressee'][]
  chosen: string[]
  copied: string[]
  onChosen: (chosen: string[]) => void
  onCopied: (copied: string[]) => void
}

/** To whom, and who gets a copy of which nothing is wanted; a company at once by its code, a role by its name. */
export function SendPeople({ ask, roles, people, chosen, copied, onChosen, onCopied }: Props) {
  const companies = [...new Set(people.map((each) => each.who.company))]
  const some = { chosen, onChosen }
  return (
    <>
      <fieldset>
        <legend className="mb-0.5 text-note font-medium text-second">Recipients</legend>
        {ask}
        <div className="mb-1 flex flex-wrap gap-1">
          {companies.map((code) => (
            <Group
              key={code}
              {...some}
              code
              words={code}
              all="all of the company"
              theirs={people.filter((each) => each.who.company === code)}
            />
          ))}
        </div>
        <div className="mb-1 flex flex-wrap gap-1">
          {roles.map(({ code, words }) => (
            <Group
              key={code}
              {...some}
              words={words}
              all="all in the role"
              theirs={people.filter((each) => each.roles.includes(code))}
            />
          ))}
        </div>
        <ul className="max-h-[340px] overflow-auto border border-line bg-surface">
          {people.map((each) => (
            <Person key={each.who.id} person={each} chosen={chosen} onChosen={onChosen} />
          ))}
        </ul>
      </fieldset>
      <ChooseMany
        label="Copied, for information"
        choices={people
          .filter((each) => !chosen.includes(each.who.id))
          .map((each) => ({ key: each.who.id, words: each.who.name, note: each.who.company }))}
        chosen={copied.filter((each) => !chosen.includes(each))}
        onChange={onCopied}
      />
    </>
  )
}

interface GroupProps extends Pick<Props, 'chosen' | 'onChosen'> {
  words: string
  /** In the look of codes. */
  code?: boolean
  all: string
  theirs: readonly Schemas['Addressee'][]
}

function Group({ words, code = false, all, theirs, chosen, onChosen }: GroupProps) {
  const ids = theirs.map((each) => each.who.id)
  const on = ids.every((id) => chosen.includes(id))
  return (
    <button
      type="button"
      aria-pressed={on}
      aria-label={`${words}, ${all}`}
      className={`${code ? 'code ' : ''}min-h-6 border border-line bg-surface px-1.5 text-note hover:border-second aria-pressed:border-plum aria-pressed:bg-plum aria-pressed:text-on-plum`}
      onClick={() =>
        onChosen(on ? chosen.filter((id) => !ids.includes(id)) : [...new Set([...chosen, ...ids])])
      }
    >
      {words}
    </button>
  )
}

interface PersonProps extends Pick<Props, 'chosen' | 'onChosen'> {
  person: Schemas['Addressee']
}

function Person({ person, chosen, onChosen }: PersonProps) {
  const { who } = person
  const on = chosen.includes(who.id)
  return (
    <li>
      <label className="flex cursor-pointer items-start gap-2 border-b border-line/60 px-3 py-1.5 has-checked:bg-plum-tint">
        <input
          type="checkbox"
          className="mt-1 accent-plum"
          checked={on}
          onChange={() => onChosen(on ? chosen.filter((id) => id !== who.id) : [...chosen, who.id])}
        />
        <span>
          <span className="font-medium">{who.name}</span>{' '}
          <span className="code text-note">{who.company}</span>
          <span className="block text-note text-second">
            {who.job}, {person.company_name}
            {person.outside && ', outside contact, no account needed'}
          </span>
        </span>
      </label>
    </li>
  )
}
