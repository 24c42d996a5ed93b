import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { dayAndMinutes, instantOf } from '../../domain/typedTimes'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { idsOfAddress } from '../../ui/chosen'
import { DateField } from '../../ui/DateField'
import { TextArea, TextField } from '../../ui/Field'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { TimeField } from '../../ui/TimeField'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { NOBODY, PartyFields, partiesOf, type Chosen } from './PartyFields'

type Proposed = Schemas['SheetToMeetOn']

/** Makes a session of the sheets that the address names. */
export function MakeSessionPage() {
  const { revisions = '' } = useSearch({ from: '/frame/sessions/new' })
  const ids = idsOfAddress(revisions)
  if (!ids.length)
    return (
      <Empty
        title="Make a session"
        act={
          <Link to="/register" className="text-plum underline">
            To the register
          </Link>
        }
      >
        A session begins from sheets. Mark some in the register, or take a drawing set, and make it from
        there.
      </Empty>
    )
  return <Form key={revisions} revisions={ids} />
}

/** The moment from which a session is proposed, on the half hour. */
function useProposedTimes() {
  const { me } = useSeat()
  const [today, minutes] = dayAndMinutes(me.now)
  const next = Math.min(Math.ceil((minutes + 1) / 30) * 30, 23 * 60 + 30)
  return { today, next }
}

function useForm(revisions: readonly string[]) {
  const kept = useKept('make-session', revisions.join(' ').slice(0, 200), 'a session')
  const { today, next } = useProposedTimes()
  const [name, setName] = useField(kept, 'name', '')
  const [note, setNote] = useField(kept, 'note', '')
  const [now, setNow] = useField(kept, 'opens now', true)
  const [opensOn, setOpensOn] = useField(kept, 'opens on', today)
  const [opens, setOpens] = useField(kept, 'opens', next)
  const [closesOn, setClosesOn] = useField(kept, 'closes on', today)
  const [closes, setCloses] = useField(kept, 'closes', Math.min(next + 120, 23 * 60 + 59))
  const [parties, setParties] = useField<Chosen>(kept, 'parties', NOBODY)
  const [out, setOut] = useField<string[]>(kept, 'left out', [])
  return {
    kept,
    ...{ name, setName, note, setNote, now, setNow, opensOn, setOpensOn, opens, setOpens },
    ...{ closesOn, setClosesOn, closes, setCloses, parties, setParties, out, setOut },
    left: revisions.filter((each) => !out.includes(each)),
    opensAt: now ? null : instantOf(opensOn, opens),
    closesAt: instantOf(closesOn, closes),
  }
}

type MakeForm = ReturnType<typeof useForm>

function useCheck(form: MakeForm, revisions: readonly string[]) {
  const { project } = useSeat()
  const body = {
    project_id: project.id,
    opens_now: form.now,
    revisions: [...revisions],
    parties: partiesOf(form.parties),
  }
  return useQuery({
    queryKey: ['session-check', project.id, body],
    queryFn: () => unwrap(api.POST('/api/sessions/check', { body })),
    placeholderData: (old) => old,
  })
}

function useMake(form: MakeForm) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const here = useHere()
  return useMutation({
    mutationFn: () =>
      sendOnce(form.kept, (more) =>
        unwrap(
          api.POST('/api/sessions', {
            ...more,
            body: {
              project_id: project.id,
              name: form.name,
              note: form.note,
              opens_at: form.opensAt,
              closes_at: form.closesAt,
              revisions: form.left,
              parties: partiesOf(form.parties),
            },
          }),
        ),
      ),
    onSuccess: ({ id }) => here(() => navigate({ to: '/sessions/$sessionId', params: { sessionId: id } })),
    onSettled: () => fetchAnew(client, ['sessions', 'register', 'document']),
  })
}

function whyNot(form: MakeForm, sheets: readonly Proposed[] | undefined): string | false {
  if (form.name.trim().length < 2) return 'Give the session a name.'
  if (!form.left.length) return 'Leave at least one sheet in it.'
  const stopped = sheets?.filter((each) => each.stop && form.left.includes(each.revision_id)) ?? []
  if (stopped.length)
    return `${counted(stopped.length, 'sheet')} cannot be in a session: leave ${stopped.length === 1 ? 'it' : 'them'} out.`
  if (form.closesAt <= (form.opensAt ?? '')) return 'It closes before it opens.'
  return false
}

function Form({ revisions }: { revisions: readonly string[] }) {
  const form = useForm(revisions)
  const check = useCheck(form, revisions)
  const make = useMake(form)
  if (check.isPending) return <Loading what="the sheets" />
  const why = whyNot(form, check.data?.sheets)
  return (
    <form
      className="flex h-full min-h-0 max-md:flex-col max-md:overflow-auto"
      onSubmit={(event) => {
        event.preventDefault()
        if (!why) make.mutate()
      }}
    >
      <section
        aria-label="The session"
        className="flex w-[440px] shrink-0 flex-col gap-3 overflow-auto border-r border-line p-4 max-md:w-full max-md:shrink-0 max-md:overflow-visible max-md:border-r-0"
      >
        <h1 className="text-title font-semibold">Make a session</h1>
        <TextField
          label="Name"
          keep={form.kept}
          value={form.name}
          maxLength={120}
          placeholder="Coordination, level 1"
          onChange={(event) => form.setName(event.target.value)}
        />
        <Times form={form} />
        <PartyFields chosen={form.parties} onChange={form.setParties} />
        <TextArea
          label="What it is for, in the invitation"
          keep={form.kept}
          value={form.note}
          onChange={(event) => form.setNote(event.target.value)}
        />
        <div className="flex flex-col gap-2 border-t border-line pt-3">
          {check.data?.widened && (
            <p className="border-l-4 border-ochre bg-ochre-tint px-3 py-2 text-ochre">{check.data.widened}</p>
          )}
          <p className="text-second">{whatFollows(form)}</p>
          <ErrorNote error={check.error} again={() => void check.refetch()} />
          <ErrorNote error={make.error} />
          <Button look="act" type="submit" busy={make.isPending} why={why} className="self-start">
            {form.now ? 'Make and open it' : 'Make the session'}
          </Button>
        </div>
      </section>
      <Sheets form={form} sheets={check.data?.sheets ?? []} />
    </form>
  )
}

/** What will happen, to whom, before the button. */
function whatFollows(form: MakeForm): string {
  const people = partiesOf(form.parties).length
  const told = people
    ? `${counted(people, 'person or company', 'people and companies')} get an invitation with a calendar file.`
    : 'Nobody is invited yet; you can do it later, and give a link to guests.'
  const out = form.now ? 'are checked out to it now' : 'are checked out to it when it opens'
  return `${told} ${counted(form.left.length, 'sheet')} ${out}: nobody files a revision of them meanwhile.`
}

function Times({ form }: { form: MakeForm }) {
  const kept: Kept = form.kept
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="sr-only">When</legend>
      <Checkbox label="It opens now" checked={form.now} onChange={form.setNow} />
      {!form.now && (
        <div className="flex items-start gap-2">
          <DateField label="Opens on" keep={kept} value={form.opensOn} onChange={form.setOpensOn} />
          <TimeField label="Opens at" keep={kept} value={form.opens} onChange={form.setOpens} />
        </div>
      )}
      <div className="flex items-start gap-2">
        <DateField label="Closes on" keep={kept} value={form.closesOn} onChange={form.setClosesOn} />
        <TimeField label="Closes at" keep={kept} value={form.closes} onChange={form.setCloses} />
      </div>
      <p className="text-note text-second">
        In your own time zone, {Intl.DateTimeFormat().resolvedOptions().timeZone}. Others see it in theirs.
      </p>
    </fieldset>
  )
}

function Sheets({ form, sheets }: { form: MakeForm; sheets: readonly Proposed[] }) {
  const stopped = sheets.filter((each) => each.stop && !form.out.includes(each.revision_id))
  const put = (ids: readonly string[], out: boolean) =>
    form.setOut((now) => (out ? [...now, ...ids] : now.filter((each) => !ids.includes(each))))
  return (
    <section
      aria-label="Sheets"
      className="flex min-w-0 flex-1 flex-col overflow-auto max-md:overflow-visible"
    >
      <header className="flex flex-wrap items-center justify-between gap-2 border-b border-line px-4 py-2">
        <h2 className="text-head font-semibold">{counted(form.left.length, 'sheet')}</h2>
        {stopped.length > 0 && (
          <Button
            small
            onClick={() =>
              put(
                stopped.map((each) => each.revision_id),
                true,
              )
            }
          >
            Leave out {stopped.length === 1 ? 'the one' : `the ${stopped.length}`} that cannot be in it
          </Button>
        )}
      </header>
      <ul>
        {sheets.map((each) => {
          const out = form.out.includes(each.revision_id)
          return (
            <li
              key={each.revision_id}
              className={`flex items-start gap-3 border-b border-line/70 px-4 py-1.5 text-list ${out ? 'opacity-60' : ''}`}
            >
              <span className="code w-[230px] shrink-0 truncate max-sm:w-auto">
                {each.number} {each.revision}
              </span>
              <span className="min-w-0 flex-1">
                <span className="block truncate" title={each.title}>
                  {each.title}
                </span>
                {each.stop && !out && <span className="block text-brick">{each.stop}</span>}
                {each.warn && !out && <span className="block text-ochre">{each.warn}</span>}
              </span>
              <Button
                small
                aria-label={`${out ? 'Take it in again' : 'Leave out'}: ${each.number}`}
                onClick={() => put([each.revision_id], !out)}
              >
                {out ? 'Take it in again' : 'Leave out'}
              </Button>
            </li>
          )
        })}
      </ul>
    </section>
  )
}
