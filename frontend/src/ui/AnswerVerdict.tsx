import type { Schemas } from '../api/client'
import { answered } from '../domain/itemVerdicts'
import { ItemVerdicts, type Given } from './ItemVerdicts'
import { useField, type Kept } from './useKept'
import { VerdictLetters } from './VerdictLetters'

interface Asked {
  items: readonly Schemas['SubmittalItem'][]
  verdicts: readonly Schemas['VerdictShown'][]
}

/** The verdict on a submittal and on each of its open items, kept with the form: what is sent, and how it is chosen. */
export function useVerdict(form: Kept, { items, verdicts }: Asked) {
  const [overall, setOverall] = useField(form, 'verdict', '')
  const [given, setGiven] = useField<Given>(form, 'items', {})
  const order = verdicts.map((each) => each.code)
  const said = answered(items, order, overall, given)
  const chosen = verdicts.find((each) => each.code === said.verdict)
  return { said, chosen, overall, setOverall, given, setGiven, items, verdicts }
}

interface Props {
  name: string
  choosing: ReturnType<typeof useVerdict>
}

/** The letters for all of it, and for each item where it has any. */
export function AnswerVerdict({ name, choosing }: Props) {
  const { said, overall, items, verdicts } = choosing
  return (
    <>
      <VerdictLetters
        name={name}
        label="The verdict"
        verdicts={verdicts}
        chosen={overall}
        onChoose={choosing.setOverall}
      />
      <ItemVerdicts
        items={items}
        verdicts={verdicts}
        overall={overall}
        given={choosing.given}
        onGive={choosing.setGiven}
      />
      {said.verdict && said.verdict !== overall && (
        <p className="text-list">It is answered {said.verdict}, the gravest.</p>
      )}
    </>
  )
}
