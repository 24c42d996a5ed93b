import { useMutation, useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Dialog } from '../../ui/Dialog'
import { Select } from '../../ui/Field'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Day } from '../../ui/Standing'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { useSettled } from './useReviews'

/** Who is away from the project and who stands in; one's own, and for who runs the project anybody's. */
export function Absences({ onClose }: { onClose: () => void }) {
  const { project } = useSeat()
  const found = useQuery({
    queryKey: ['reviews', project.id, 'absences'],
    queryFn: () => unwrap(api.GET('/api/absences', { params: { query: { project_id: project.id } } })),
  })
  return (
    <Dialog
      title="Who is away"
      about="Steps that begin meanwhile go to whoever stands in, and so does what is with them already."
      open
      onClose={onClose}
    >
      <ErrorNote error={found.error} />
      {found.isPending && <Loading what="who is away" />}
      {found.data && (
        <>
          {!found.data.absences.length && <p className="text-second">Nobody is away, as far as was said.</p>}
          <ul>
            {found.data.absences.map((each) => (
              <Absence key={each.id} absence={each} />
            ))}
          </ul>
          <SetAbsence people={found.data.people} />
        </>
      )}
    </Dialog>
  )
}

function Absence({ absence }: { absence: Schemas['AbsenceShown'] }) {
  const onSettled = useSettled()
  const remove = useMutation({
    mutationFn: () =>
      unwrap(api.DELETE('/api/absences/{absence_id}', { params: { path: { absence_id: absence.id } } })),
    onSettled,
  })
  return (
    <li className="flex flex-wrap items-center justify-between gap-2 border-b border-line py-1.5">
      <span>
        <b>{absence.who.name}</b>, <Day on={absence.first_on} /> to <Day on={absence.last_on} />.{' '}
        {absence.stand_in.name} stands in.
      </span>
      {absence.may_remove && (
        <Button
          small
          aria-label={`Take away the absence of ${absence.who.name}`}
          busy={remove.isPending}
          onClick={() => remove.mutate()}
        >
          Take it away
        </Button>
      )}
      <ErrorNote error={remove.error} />
    </li>
  )
}

function useAbsence(people: Schemas['Who'][]) {
  const { project, me: mine } = useSeat()
  const me = mine.person.id
  const form = useKept('absence', project.id)
  const [who, setWho] = useField(form, 'who', people.some((each) => each.id === me) ? me : '')
  const [standIn, setStandIn] = useField(form, 'standIn', '')
  const [first, setFirst] = useField(form, 'first', '')
  const [last, setLast] = useField(form, 'last', '')
  const onSettled = useSettled()
  const set = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/absences', {
            ...more,
            body: {
              project_id: project.id,
              person_id: who,
              stand_in_id: standIn,
              first_on: first,
              last_on: last,
            },
          }),
        ),
      ),
    onSettled,
  })
  return { me, form, who, setWho, standIn, setStandIn, first, setFirst, last, setLast, set }
}

function SetAbsence({ people }: { people: Schemas['Who'][] }) {
  const { project } = useSeat()
  const { me, form, who, setWho, standIn, setStandIn, first, setFirst, last, setLast, set } =
    useAbsence(people)
  const named = (each: Schemas['Who']) => ({ code: each.id, words: `${each.name} (${each.company})` })
  const own = people.filter((each) => project.runs || each.id === me)
  if (!own.length) return null
  return (
    <form
      aria-label="An absence"
      className="mt-3 flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        set.mutate()
      }}
    >
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        <Select
          label="Who is away"
          value={who}
          onChange={setWho}
          choices={[{ code: '', words: 'choose somebody' }, ...own.map(named)]}
        />
        <Select
          label="Who stands in"
          value={standIn}
          onChange={setStandIn}
          choices={[
            { code: '', words: 'choose somebody' },
            ...people.filter((each) => each.id !== who).map(named),
          ]}
        />
        <DateField keep={form} label="First day" value={first} onChange={setFirst} />
        <DateField keep={form} label="Last day" value={last} onChange={setLast} />
      </div>
      <ErrorNote error={set.error} />
      <div className="flex justify-end">
        <Button
          look="act"
          type="submit"
          busy={set.isPending}
          why={!(who && standIn && first && last) && 'Say who is away, who stands in, and both days first.'}
        >
          Set the absence
        </Button>
      </div>
    </form>
  )
}
