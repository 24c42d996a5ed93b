import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { keyOf, namedOf, useWhomToChoose } from '../../ui/usePeopleToChoose'
import { useActing, useSubmittalActs, type Submittal } from './useSubmittals'

/** Who is told of each step without having to act. */
export function Copied({ submittal }: { submittal: Submittal }) {
  const acts = useSubmittalActs(submittal.line.id)
  const { choices, error } = useWhomToChoose('told by mail')
  const whom = choices.filter((each) => !each.key.startsWith('role '))
  const there = submittal.copied.map((each) => keyOf({ kind: each.kind as 'person', id: each.id }))
  const form = useKept('submittal-act', `copy in ${submittal.line.id}`, submittal.line.shown)
  const [now, setNow] = useField<string[]>(form, 'parties', there)
  const acting = useActing()
  const changed = [...now].sort().join() !== [...there].sort().join()
  if (!submittal.line.may.includes('copy in'))
    return submittal.copied.length ? (
      <ul className="text-list">
        {submittal.copied.map((each) => (
          <li key={each.id}>
            {each.name} {each.kind === 'person' && <span className="text-second">({each.company})</span>}
          </li>
        ))}
      </ul>
    ) : (
      <p className="text-second">Nobody is copied in.</p>
    )
  return (
    <div className="flex flex-col gap-3">
      <ChooseMany
        label="Told of each step"
        choices={whom}
        chosen={now}
        onChange={setNow}
        placeholder="People or companies"
      />
      <ErrorNote error={error ?? acts.copyIn.error} />
      <Button
        className="self-start"
        busy={acting}
        why={!changed && 'Nothing has been changed.'}
        onClick={() =>
          acts.copyIn.mutate(
            {
              version: submittal.line.version,
              parties: now
                .map(namedOf)
                .map(({ kind, id }) => ({ kind: kind === 'company' ? kind : 'person', id })),
            },
            { onSuccess: form.drop },
          )
        }
      >
        Keep
      </Button>
    </div>
  )
}
