import { useSeat } from '../../api/me'
import { ChooseMany } from '../../ui/ChooseMany'
import { namedOf, useWhomToChoose } from '../../ui/usePeopleToChoose'
import type { Party } from './useSessions'

export type Chosen = Record<Party['may'], string[]>

export const NOBODY: Chosen = { mark: [], comment: [], look: [] }

const FIELDS: readonly [Party['may'], string][] = [
  ['mark', 'May mark'],
  ['comment', 'May answer and set states'],
  ['look', 'May look'],
]

export function partiesOf(chosen: Chosen): Party[] {
  return FIELDS.flatMap(([may]) =>
    chosen[may].map((key) => {
      const { kind, id } = namedOf(key)
      return { kind: kind === 'company' ? 'company' : 'person', id, may }
    }),
  )
}

interface Props {
  chosen: Chosen
  onChange: (chosen: Chosen) => void
  /** Who has a place already, by kind and id. */
  without?: readonly string[]
}

/** People and companies, each with what they may do; whoever is in one field is not offered in another. */
export function PartyFields({ chosen, onChange, without = [] }: Props) {
  const { choices } = useWhomToChoose()
  const { me } = useSeat()
  // The host, or who acts as such, has a place already.
  const taken = new Set([`person ${me.person.id}`, ...without, ...Object.values(chosen).flat()])
  return (
    <div className="flex flex-col gap-2">
      {FIELDS.map(([may, words]) => (
        <ChooseMany
          key={may}
          label={words}
          placeholder="A person or a company"
          choices={choices.filter(
            ({ key }) => !key.startsWith('role ') && (chosen[may].includes(key) || !taken.has(key)),
          )}
          chosen={chosen[may]}
          onChange={(keys) => onChange({ ...chosen, [may]: keys })}
        />
      ))}
    </div>
  )
}
