import { useSeat } from '../../api/me'
import type { Session } from '../../api/session'
import { dayAndMinutes, instantOf } from '../../domain/typedTimes'
import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { Dialog } from '../../ui/Dialog'
import { Select, TextArea, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { TimeField } from '../../ui/TimeField'
import { useField, useKept } from '../../ui/useKept'
import { useHere } from '../../ui/useHere'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { useSessionActs } from './useSessions'

interface Props {
  session: Session
  /** A closed one is opened again until a new time. */
  again: boolean
  onClose: () => void
}

const TWO_HOURS_MS = 2 * 3_600_000

function useTimes({ session, again }: Props) {
  const { me } = useSeat()
  const { line } = session
  const kept = useKept('session-change', line.id, line.number)
  const later = new Date(Date.parse(me.now) + TWO_HOURS_MS).toISOString()
  const [day, minutes] = dayAndMinutes(again ? later : line.closes_at)
  const [fromDay, fromMinutes] = dayAndMinutes(line.opens_at)
  const [name, setName] = useField(kept, 'name', line.name)
  const [note, setNote] = useField(kept, 'note', session.note)
  const [host, setHost] = useField(kept, 'host', line.host.id)
  const [opensOn, setOpensOn] = useField(kept, 'opens on', fromDay)
  const [opens, setOpens] = useField(kept, 'opens', fromMinutes)
  const [closesOn, setClosesOn] = useField(kept, 'closes on', day)
  const [closes, setCloses] = useField(kept, 'closes', minutes)
  const moved = closesOn !== day || closes !== minutes
  const movedFrom = opensOn !== fromDay || opens !== fromMinutes
  return {
    kept,
    ...{ name, setName, note, setNote, host, setHost, opensOn, setOpensOn, opens, setOpens },
    ...{ closesOn, setClosesOn, closes, setCloses },
    opensAt: movedFrom ? instantOf(opensOn, opens) : null,
    closesAt: moved || again ? instantOf(closesOn, closes) : null,
  }
}

/** Puts its time off, names it otherwise, hands it over; or opens it again. */
export function TimesDialog(props: Props) {
  const { session, again, onClose } = props
  const form = useTimes(props)
  const acts = useSessionActs(session.line.id)
  const here = useHere()
  const done = {
    onSuccess: () => {
      form.kept.drop()
      here(onClose)
    },
  }
  function send() {
    if (again) acts.openAgain.mutate({ version: session.version, closes_at: form.closesAt ?? '' }, done)
    else
      acts.change.mutate(
        {
          version: session.version,
          name: form.name,
          note: form.note,
          opens_at: form.opensAt,
          closes_at: form.closesAt,
          host_id: form.host === session.line.host.id ? null : form.host,
        },
        done,
      )
  }
  return (
    <Dialog
      open
      title={again ? `Open ${session.line.number} again` : `Change ${session.line.number}`}
      about={
        again
          ? 'Its documents are checked out again, but those that have a newer revision. When it closes, a second part of the record is made; the first stays as it is.'
          : 'Who is invited is told of a new time.'
      }
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          send()
        }}
      >
        {!again && <Names form={form} />}
        <Times form={form} opens={!again && session.line.state === 'to come'} />
        <ErrorNote error={acts.change.error ?? acts.openAgain.error} />
        <Button
          look="act"
          type="submit"
          className="self-start"
          busy={acts.change.isPending || acts.openAgain.isPending}
        >
          {again ? 'Open it again' : 'Keep it so'}
        </Button>
      </form>
    </Dialog>
  )
}

function Names({ form }: { form: ReturnType<typeof useTimes> }) {
  const { choices } = usePeopleToChoose()
  return (
    <>
      <TextField
        label="Name"
        keep={form.kept}
        maxLength={120}
        value={form.name}
        onChange={(event) => form.setName(event.target.value)}
      />
      <TextArea
        label="What it is for"
        keep={form.kept}
        value={form.note}
        onChange={(event) => form.setNote(event.target.value)}
      />
      <Select
        label="Host"
        value={form.host}
        onChange={form.setHost}
        choices={choices.map((each) => ({ code: each.key, words: `${each.words} (${each.note})` }))}
      />
    </>
  )
}

function Times({ form, opens }: { form: ReturnType<typeof useTimes>; opens: boolean }) {
  return (
    <>
      {opens && (
        <div className="flex items-start gap-2">
          <DateField label="Opens on" keep={form.kept} value={form.opensOn} onChange={form.setOpensOn} />
          <TimeField label="Opens at" keep={form.kept} value={form.opens} onChange={form.setOpens} />
        </div>
      )}
      <div className="flex items-start gap-2">
        <DateField label="Closes on" keep={form.kept} value={form.closesOn} onChange={form.setClosesOn} />
        <TimeField label="Closes at" keep={form.kept} value={form.closes} onChange={form.setCloses} />
      </div>
    </>
  )
}
