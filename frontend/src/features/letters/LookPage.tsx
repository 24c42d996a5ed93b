import { useSeat } from '../../api/me'
import { dayText } from '../../domain/dates'
import { Attachments } from '../../ui/Attachments'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { useField, useKept } from '../../ui/useKept'
import { Speaks } from './Speaks'
import { useChecks, useFollowed } from './useChecks'
import { useLetterChoices } from './useLetters'
import type { Draft } from './useWriting'

/** A draft as it would go out: for whoever looks at it first, and for whoever wrote it while another does. */
export function LookPage({ draft }: { draft: Draft }) {
  useFollowed(draft)
  const choices = useLetterChoices()
  const { project } = useSeat()
  const kind = choices.data?.kinds.find((each) => each.code === draft.written.kind)
  return (
    <div className="h-full overflow-auto bg-paper">
      <article
        aria-label="A letter before it goes"
        className="mx-auto my-4 flex max-w-[860px] flex-col gap-4 border border-line bg-surface px-8 py-6 max-md:my-0 max-md:px-4"
      >
        {draft.mine ? <Away draft={draft} /> : <Wish draft={draft} />}
        <header className="border-b-2 border-ink pb-2">
          <p className="text-list text-second">
            {draft.is_new ? `A new ${kind?.words ?? 'letter'}` : draft.number} · {project.number}{' '}
            {project.name}
          </p>
          <h1 className="text-head font-semibold break-words">{draft.written.subject}</h1>
        </header>
        <Particulars draft={draft} />
        {/* Cleaned on the server: words, lists, tables and links are all that is left. */}
        <div
          className="mail-page text-read break-words"
          dangerouslySetInnerHTML={{ __html: draft.written.page }}
        />
        <Attachments attachments={draft.files} />
        <Speaks about={draft.references} />
        {!draft.mine && <Judge draft={draft} />}
      </article>
    </div>
  )
}

/** Whoever wrote it waits, or takes it back. */
function Away({ draft }: { draft: Draft }) {
  const { takeBack } = useChecks(draft)
  return (
    <div className="flex flex-wrap items-center gap-3 bg-ochre-tint px-3 py-2 text-list">
      <p role="status" className="min-w-0 flex-1">
        It is with {draft.checker?.name} ({draft.checker?.company}), who{' '}
        {draft.written.signs ? 'signs it' : 'looks at it'} before it goes. Nothing of it is changed meanwhile.
      </p>
      <Button busy={takeBack.isPending} onClick={() => takeBack.mutate()}>
        Take it back
      </Button>
      <ErrorNote error={takeBack.error} />
    </div>
  )
}

function Wish({ draft }: { draft: Draft }) {
  const wish = draft.written.signs ? 'asks you to sign this' : 'asks you to look at this before it goes'
  return (
    <p className="bg-plum-tint px-3 py-2 text-list">
      {draft.author.name} ({draft.author.company}) {wish}. If you let it go, it is sent at once, as it is, to
      those named. Written until <When at={draft.saved_at} time />.
    </p>
  )
}

function useNames(draft: Draft) {
  const choices = useLetterChoices()
  const people = new Map(
    (choices.data?.people ?? []).map((each) => [each.id, `${each.name} (${each.company})`]),
  )
  const companies = new Map((choices.data?.companies ?? []).map((each) => [each.id, each.name]))
  const nameOf = (id: string) => people.get(id) ?? companies.get(id) ?? 'somebody who has left'
  const { to, copied, contacts } = draft.written
  const named = (how: 'to' | 'copied', parties: readonly { id: string }[] = []) =>
    [
      ...parties.map((each) => nameOf(each.id)),
      ...(contacts ?? []).filter((each) => each.how === how).map((each) => `${each.name}, ${each.email}`),
    ].join(', ')
  return { nameOf, to: named('to', to), copied: named('copied', copied) }
}

function Particulars({ draft }: { draft: Draft }) {
  const { nameOf, to, copied } = useNames(draft)
  const { written } = draft
  const day = (value: string | null | undefined) => (value ? dayText(value, '') : '')
  const told: [string, string | undefined][] = [
    ['To', to],
    ['Copied', copied],
    ['Answer wanted', written.asked_id && `from ${nameOf(written.asked_id)} ${day(written.due_on)}`],
    ['Our reference', written.own_ref],
    ['Your reference', written.other_ref],
    ['Proposed answer', written.proposed],
    ['Effect on cost', written.cost_effect],
    ['Effect on time', written.time_effect],
    ['Became aware', day(written.aware_on)],
    ['Time bar', day(draft.bar_on)],
    ['Private', written.private ? 'for those it goes to alone' : ''],
  ]
  return (
    <dl className="grid grid-cols-[120px_1fr] gap-x-3 gap-y-1 text-list">
      {told
        .filter(([, words]) => words)
        .map(([label, words]) => (
          <div key={label} className="contents">
            <dt className="text-second">{label}</dt>
            <dd className="break-words whitespace-pre-line">{words}</dd>
          </div>
        ))}
    </dl>
  )
}

function Judge({ draft }: { draft: Draft }) {
  const form = useKept('letter-look', draft.id, draft.written.subject)
  const [note, setNote] = useField(form, 'note', '')
  const { letGo, giveBack } = useChecks(draft, form.drop)
  return (
    <form
      aria-label="Before it goes"
      className="flex flex-col gap-3 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault()
        giveBack.mutate(note)
      }}
    >
      <TextArea
        keep={form}
        label="What is to change"
        value={note}
        maxLength={4000}
        onChange={(event) => setNote(event.target.value)}
      />
      <ErrorNote error={letGo.error ?? giveBack.error} />
      <div className="flex flex-wrap gap-3">
        <Button
          look="act"
          busy={letGo.isPending}
          why={note.trim() && 'Something is to change: give it back, or take your words away.'}
          onClick={() => letGo.mutate()}
        >
          {draft.written.signs ? 'Sign it and let it go' : 'Let it go'}
        </Button>
        <Button type="submit" busy={giveBack.isPending} why={!note.trim() && 'Say what is to change first.'}>
          Give it back
        </Button>
      </div>
    </form>
  )
}
