import { useMutation } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select, TextArea, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { usePeopleToChoose } from '../../ui/usePeopleToChoose'
import { ChangeMany } from './ChangeMany'
import { ACT, useActing, useAfterAct, type Line } from './useSubmittals'

export type ManyAct = 'ask' | 'remind' | 'edit' | 'void'

const TITLES: Record<ManyAct, (many: string) => string> = {
  ask: (many) => `Ask for ${many}`,
  remind: (many) => `Remind of ${many}`,
  edit: (many) => `Change ${many}`,
  void: (many) => `Void ${many}`,
}
const ABOUT: Record<ManyAct, string> = {
  ask: 'They get a mail with all details of each, and it is with them from now on.',
  remind: 'Whoever has them is written to once more; the trail keeps when.',
  edit: 'What is left empty stays as it is. All are changed, or none.',
  void: 'They keep their numbers and stay in the log as void; nothing is asked of anybody any more.',
}

interface Props {
  act: ManyAct
  lines: readonly Line[]
  onClose: () => void
  onDone: () => void
}

/** What is done with one or several at once. */
export function ActDialog({ act, lines, onClose, onDone }: Props) {
  const [one] = lines
  const many = lines.length === 1 && one ? one.shown : counted(lines.length, 'submittal')
  return (
    <Dialog open title={TITLES[act](many)} about={ABOUT[act]} onClose={onClose}>
      {act === 'ask' && <Ask lines={lines} onDone={onDone} />}
      {act === 'remind' && <Remind lines={lines} onDone={onDone} />}
      {act === 'edit' && <ChangeMany lines={lines} onDone={onDone} />}
      {act === 'void' && <Void lines={lines} onDone={onDone} />}
    </Dialog>
  )
}

const seenOf = (lines: readonly Line[]) => Object.fromEntries(lines.map((each) => [each.id, each.version]))

const ofAll = (act: ManyAct, lines: readonly Line[]) =>
  `${act} ${lines
    .map((each) => each.id)
    .join(' ')
    .slice(0, 200)}`

function useForm(act: ManyAct, lines: readonly Line[]) {
  return useKept('submittal-act', ofAll(act, lines), lines[0]?.shown ?? '')
}

type Once = Parameters<Parameters<typeof sendOnce>[1]>[0]

function useAct<T>(form: Kept, send: (more: Once) => Promise<T>, onDone: () => void) {
  const onSettled = useAfterAct()
  const here = useHere()
  return useMutation({
    mutationKey: ACT,
    mutationFn: () => sendOnce(form, send),
    onSuccess: () => here(onDone),
    onSettled,
  })
}

interface FormProps {
  lines: readonly Line[]
  onDone: () => void
}

function Ask({ lines, onDone }: FormProps) {
  const acting = useActing()
  const form = useForm('ask', lines)
  const { choices, error } = usePeopleToChoose(true)
  const company = lines[0]?.company
  const theirs = choices.filter((each) => each.note === company)
  const [person, setPerson] = useField(form, 'person', lines[0]?.person?.id ?? '')
  const [name, setName] = useField(form, 'name', '')
  const [email, setEmail] = useField(form, 'email', '')
  const [note, setNote] = useField(form, 'note', '')
  const act = useAct(
    form,
    (more) =>
      unwrap(
        api.POST('/api/submittals/ask', {
          ...more,
          body: { submittals: seenOf(lines), note, ...whomOf(person, name, email) },
        }),
      ),
    onDone,
  )
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (person) act.mutate()
      }}
    >
      <Select
        label={`Somebody of ${company ?? ''}`}
        value={person}
        onChange={setPerson}
        choices={[
          { code: '', words: 'Choose …' },
          ...theirs.map((each) => ({ code: each.key, words: each.words })),
          { code: ANEW, words: 'Somebody else, by e-mail …' },
        ]}
      />
      {person === ANEW && (
        <Outsider form={form} name={name} email={email} onName={setName} onEmail={setEmail} />
      )}
      <TextArea label="A note" keep={form} value={note} onChange={(event) => setNote(event.target.value)} />
      <ErrorNote error={error ?? act.error} />
      <Button look="act" type="submit" className="self-start" busy={acting} why={whyNobody(person, email)}>
        Ask
      </Button>
    </form>
  )
}

const ANEW = 'anew'

function whomOf(person: string, name: string, email: string) {
  return person === ANEW ? { person_id: '', contact: { name, email } } : { person_id: person }
}

function whyNobody(person: string, email: string): string | false {
  if (!person) return 'Choose whom to ask.'
  return person === ANEW && !email.trim() && 'Give their e-mail address.'
}

interface OutsiderProps {
  form: Kept
  name: string
  email: string
  onName: (name: string) => void
  onEmail: (email: string) => void
}

/** Somebody who becomes an outside contact of the project with this. */
function Outsider({ form, name, email, onName, onEmail }: OutsiderProps) {
  return (
    <>
      <TextField
        label="E-mail"
        type="email"
        keep={form}
        value={email}
        onChange={(event) => onEmail(event.target.value)}
      />
      <TextField label="Name" keep={form} value={name} onChange={(event) => onName(event.target.value)} />
      <p className="text-list text-second">
        They become an outside contact: without an account, they send in under the link in their mail.
      </p>
    </>
  )
}

function Remind({ lines, onDone }: FormProps) {
  const acting = useActing()
  const form = useForm('remind', lines)
  const [note, setNote] = useField(form, 'note', '')
  const act = useAct(
    form,
    (more) =>
      unwrap(api.POST('/api/submittals/remind', { ...more, body: { submittals: seenOf(lines), note } })),
    onDone,
  )
  const whom = [...new Set(lines.map((each) => each.standing.with_whom))].filter(Boolean)
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        act.mutate()
      }}
    >
      <p>{whom.join(', ')}</p>
      <TextArea label="A note" keep={form} value={note} onChange={(event) => setNote(event.target.value)} />
      <ErrorNote error={act.error} />
      <Button look="act" type="submit" className="self-start" busy={acting}>
        Remind
      </Button>
    </form>
  )
}

function Void({ lines, onDone }: FormProps) {
  const acting = useActing()
  const form = useForm('void', lines)
  const [reason, setReason] = useField(form, 'reason', '')
  const act = useAct(
    form,
    (more) =>
      unwrap(api.POST('/api/submittals/void', { ...more, body: { submittals: seenOf(lines), reason } })),
    onDone,
  )
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (reason.trim().length >= 3) act.mutate()
      }}
    >
      <TextArea label="Why" keep={form} value={reason} onChange={(event) => setReason(event.target.value)} />
      <ErrorNote error={act.error} />
      <Button
        look="stop"
        type="submit"
        className="self-start"
        busy={acting}
        why={reason.trim().length < 3 && 'Say why: it stays in the trail.'}
      >
        Void
      </Button>
    </form>
  )
}
