import { useParams } from '@tanstack/react-router'

import type { Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { DateField } from '../../ui/DateField'
import { Select, TextArea, TextField } from '../../ui/Field'
import { FilesToSend } from '../../ui/FilesToSend'
import { isHalfTyped } from '../../ui/halfTyped'
import { ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { LookPage } from './LookPage'
import { Paper } from './Paper'
import { BeforeItGoes, Notice, Particulars } from './Particulars'
import { SpeaksOf } from './SpeaksOf'
import { ToWhom } from './ToWhom'
import { useLetterChoices } from './useLetters'
import { useDraft, useKeeping, useWriting, type Draft, type Writing } from './useWriting'

type Kind = Schemas['LetterKindShown']

/** A letter being written: a sheet of paper that is filled in, and kept on the server as one types. */
export function WritePage() {
  const { messageId = '' } = useParams({ strict: false })
  const draft = useDraft(messageId)
  if (isLost(draft))
    return (
      <div className="p-4">
        <h1 className="sr-only">A letter</h1>
        <ErrorNote error={draft.error} again={() => void draft.refetch()} />
      </div>
    )
  if (!draft.data) return <Loading what="the draft" />
  if (!draft.data.mine || draft.data.check_state === 'asked') return <LookPage draft={draft.data} />
  return <Sheet key={`${draft.data.id} ${draft.data.check_state}`} draft={draft.data} />
}

function Sheet({ draft }: { draft: Draft }) {
  const writing = useWriting(draft)
  const keeping = useKeeping(draft, writing)
  const choices = useLetterChoices()
  const { project } = useSeat()
  const kind = choices.data?.kinds.find((each) => each.code === writing.now.kind)
  return (
    <div className="h-full overflow-auto bg-paper">
      <form
        aria-label="A letter"
        className="mx-auto my-4 flex max-w-[860px] flex-col gap-4 border border-line bg-surface px-8 py-6 max-md:my-0 max-md:px-4"
        onSubmit={(event) => {
          event.preventDefault()
          if (writing.now.checker_id) keeping.give.mutate()
          else keeping.send.mutate()
        }}
      >
        <header className="flex items-start justify-between gap-4 border-b-2 border-ink pb-2">
          <div>
            <p className="text-head font-semibold">{choices.data?.own_company}</p>
            <p className="text-list text-second">
              {project.number} {project.name}
            </p>
          </div>
          <h1 className="text-right text-head font-semibold">
            {draft.is_new ? `A new ${kind?.words ?? 'letter'}` : draft.number}
          </h1>
        </header>
        <GivenBack draft={draft} />
        <Head draft={draft} writing={writing} />
        <Paper
          label="What you write"
          page={writing.now.page}
          onChange={(page) => writing.set({ page })}
          onFiles={(files) => writing.attaching.add(files)}
        />
        {kind?.asks && draft.is_new && <Effects writing={writing} />}
        <FilesToSend attaching={writing.attaching} label="Add files" />
        <SpeaksOf writing={writing} />
        <Foot draft={draft} writing={writing} keeping={keeping} />
      </form>
    </div>
  )
}

function GivenBack({ draft }: { draft: Draft }) {
  if (!draft.check_note) return null
  return (
    <p role="status" className="bg-ochre-tint px-3 py-2 text-list whitespace-pre-line">
      {draft.checker?.name} gave it back: {draft.check_note}
    </p>
  )
}

function Head({ draft, writing }: { draft: Draft; writing: Writing }) {
  const { now, set, form } = writing
  const choices = useLetterChoices()
  const kinds = choices.data?.kinds.filter((each) => !each.out_of_use || each.code === now.kind) ?? []
  return (
    <div className="flex flex-col gap-3">
      {draft.is_new && (
        <Select
          label="Kind"
          value={now.kind}
          onChange={(kind) => set({ kind })}
          choices={kinds.map(({ code, words }) => ({ code, words }))}
          className="w-[220px]"
        />
      )}
      <ToWhom draft={draft} writing={writing} />
      {draft.is_new ? (
        <TextField
          keep={form}
          label="Subject"
          value={now.subject}
          maxLength={200}
          onChange={(event) => set({ subject: event.target.value })}
        />
      ) : (
        <p className="text-read font-semibold">{now.subject}</p>
      )}
      <Notice draft={draft} writing={writing} />
      <Wanted draft={draft} writing={writing} />
      <Particulars draft={draft} writing={writing} />
    </div>
  )
}

/** Of whom an answer is wanted, by when; in a thread that waits for one, whether this is it. */
function Wanted({ draft, writing }: { draft: Draft; writing: Writing }) {
  const { now, set, form } = writing
  const choices = useLetterChoices()
  const kind = choices.data?.kinds.find((each) => each.code === now.kind)
  const named = [...now.to, ...now.copied]
  const people = (choices.data?.people ?? []).filter((person) =>
    named.some((each) =>
      each.kind === 'person' ? each.id === person.id : each.id === person.company_id && !person.contact,
    ),
  )
  if (draft.may_answer)
    return (
      <Checkbox
        label="This is the answer that was asked for"
        checked={now.is_answer}
        onChange={(is_answer) => set({ is_answer })}
        hint="It is marked as such for good; without it, what you write is a word on the way."
      />
    )
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="An answer is wanted of"
        value={now.asked_id}
        onChange={(asked_id) => set({ asked_id })}
        choices={[
          { code: '', words: 'nobody' },
          ...people.map((each) => ({ code: each.id, words: `${each.name} (${each.company})` })),
        ]}
        className="w-[280px]"
      />
      {now.asked_id && (
        <DateField
          keep={form}
          label="By"
          value={now.due_on ?? kind?.due_on ?? ''}
          onChange={(day) => set({ due_on: day || null })}
          className="w-[180px]"
        />
      )}
    </div>
  )
}

function Effects({ writing }: { writing: Writing }) {
  const { now, set, form } = writing
  return (
    <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
      <TextArea
        keep={form}
        label="The answer that you propose"
        className="col-span-full"
        value={now.proposed}
        maxLength={4000}
        onChange={(event) => set({ proposed: event.target.value })}
      />
      <TextField
        keep={form}
        label="Effect on cost"
        value={now.cost_effect}
        maxLength={4000}
        onChange={(event) => set({ cost_effect: event.target.value })}
      />
      <TextField
        keep={form}
        label="Effect on time"
        value={now.time_effect}
        maxLength={4000}
        onChange={(event) => set({ time_effect: event.target.value })}
      />
    </div>
  )
}

interface FootProps {
  draft: Draft
  writing: Writing
  keeping: ReturnType<typeof useKeeping>
}

function Foot({ draft, writing, keeping }: FootProps) {
  const { now, set } = writing
  const choices = useLetterChoices()
  const kind = choices.data?.kinds.find((each) => each.code === now.kind)
  const checker = choices.data?.people.find((each) => each.id === now.checker_id)
  const act = now.checker_id ? keeping.give : keeping.send
  return (
    <footer className="flex flex-col gap-3 border-t border-line pt-3">
      {draft.may_set_private && (
        <Checkbox
          label="Private: for those it goes to alone, not for leads, controllers and stewards"
          checked={now.private}
          onChange={(on) => set({ private: on })}
        />
      )}
      <BeforeItGoes draft={draft} writing={writing} />
      <ErrorNote error={act.error ?? keeping.drop.error ?? keeping.keep.error} />
      {keeping.isStale && (
        <p className="flex flex-wrap items-center gap-3 text-list">
          It was changed in another window.
          <Button small onClick={() => keeping.keepMine().catch(() => undefined)}>
            Keep what stands here
          </Button>
        </p>
      )}
      <div className="flex flex-wrap items-center gap-3">
        <Button look="act" type="submit" busy={act.isPending} why={whyNot(draft, writing, kind)}>
          {checker ? `Give it to ${checker.name}` : sendWords(now)}
        </Button>
        <Button busy={keeping.drop.isPending} onClick={() => keeping.drop.mutate()}>
          Throw it away
        </Button>
        <p role="status" className="text-list text-second">
          {keeping.isKept ? (
            <>
              Kept on the server, <When at={draft.saved_at} time />
            </>
          ) : (
            notKept(keeping.keep.error !== null)
          )}
        </p>
      </div>
    </footer>
  )
}

/** Until the server has it, the browser does. */
const notKept = (failed: boolean) => (failed ? 'Kept in this browser, not on the server yet' : 'Being kept …')

/** Who it will reach is said before the button is pressed. */
function sendWords(now: Writing['now']): string {
  const many = now.to.length + now.copied.length + now.contacts.length
  if (!many) return 'Send it'
  return many === 1 ? 'Send it to the one named' : `Send it to the ${many} named`
}

function whyNot(draft: Draft, { now, form, attaching }: Writing, kind: Kind | undefined): string {
  if (!attaching.settled) return 'A file is still on its way.'
  if (isHalfTyped(form)) return 'The day is not a day yet.'
  if (draft.is_new) {
    const why = whyNotNew(now, kind)
    if (why) return why
  }
  if (now.paper_from) return whyNotPaper(now)
  return now.page || now.files.length ? '' : 'Write something first.'
}

/** What a new thread needs, and a reply has. */
function whyNotNew(now: Writing['now'], kind: Kind | undefined): string {
  if (!now.to.length && !now.contacts.some((each) => each.how === 'to')) return 'Say to whom it goes.'
  if (now.subject.trim().length < 2) return 'Give it a subject.'
  return kind ? whyNotOfKind(now, kind) : ''
}

function whyNotOfKind(now: Writing['now'], kind: Kind): string {
  if (kind.asks && !now.asked_id) return 'Say of whom the answer is wanted.'
  if (now.paper_from) return ''
  if (kind.bar && !now.aware_on) return 'Say on which day you became aware of it.'
  return kind.looked_at && !now.checker_id ? `Say who looks at this ${kind.words} before it goes.` : ''
}

function whyNotPaper(now: Writing['now']): string {
  if (!now.dated_on || !now.received_on)
    return 'Say the day that the letter bears, and the day on which it came.'
  return now.files.length ? '' : 'Add the scan of the letter.'
}
