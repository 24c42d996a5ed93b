import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'

/** What is said of a step while it is typed. */
function useStep(form: Kept, step: string, usualDays: string) {
  const [chosen, setChosen] = useField<string[]>(form, step, [])
  const [days, setDays] = useField(form, `${step}Days`, usualDays)
  return { form, chosen, setChosen, days, setDays, inDays: Number(days) || Number(usualDays) }
}

/** Comments, then a verdict: two rows of a slip, filled with names and days. */
export function ReadyRoute() {
  const { project } = useSeat()
  const client = useQueryClient()
  const form = useKept('ready-route', project.id)
  const [name, setName] = useField(form, 'name', 'Comments, then a verdict')
  const comments = useStep(form, 'commenting', '5')
  const decides = useStep(form, 'deciding', '3')
  const people = usePeopleToChoose()
  const body = () => ({
    project_id: project.id,
    name,
    commenting: comments.chosen,
    comment_days: comments.inDays,
    deciding: decides.chosen,
    decide_days: decides.inDays,
  })
  const make = useMutation({
    mutationFn: () => sendOnce(form, (more) => unwrap(api.POST('/api/routes', { ...more, body: body() }))),
    onSuccess: () => client.invalidateQueries({ queryKey: ['routes'] }),
  })
  return (
    <form
      aria-label="The ready route"
      className="mt-4 flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate()
      }}
    >
      <TextField
        keep={form}
        label="Name of the route"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <ol className="border-2 border-second bg-surface">
        <StepRow
          place={1}
          label="Who comments, any one of them (optional)"
          people={people.choices}
          step={comments}
        />
        <StepRow place={2} label="Who decides, any one of them" people={people.choices} step={decides} />
      </ol>
      <ErrorNote error={make.error ?? people.error} />
      <div className="flex justify-end">
        <Button
          look="act"
          type="submit"
          busy={make.isPending}
          why={!decides.chosen.length && 'Name at least one who decides first.'}
        >
          Make the route
        </Button>
      </div>
    </form>
  )
}

interface RowProps {
  place: number
  label: string
  people: { key: string; words: string; note: string }[]
  step: ReturnType<typeof useStep>
}

function StepRow({ place, label, people, step }: RowProps) {
  return (
    <li className="grid grid-cols-[20px_1fr_110px] items-start gap-3 border-b border-line px-3 py-2 last:border-b-0">
      <span className="pt-5 font-bold text-second">{place}</span>
      <ChooseMany label={label} choices={people} chosen={step.chosen} onChange={step.setChosen} />
      <TextField
        keep={step.form}
        label="Working days"
        type="number"
        min={1}
        max={90}
        value={step.days}
        onChange={(event) => step.setDays(event.target.value)}
      />
    </li>
  )
}
