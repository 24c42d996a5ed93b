import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { DateField } from '../../ui/DateField'
import { Select, TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { useField, useKept, type Kept } from '../../ui/useKept'
import { AskMatrix } from './AskMatrix'
import { GoesAlong, type MarksAlong } from './GoesAlong'
import { Preview, reasonNot } from './Preview'
import { SendLines, type SendLine } from './SendLines'
import { SendPeople } from './SendPeople'
import { useSending } from './useSending'
import type { DraftContent } from './useTransmittals'

export interface Beginning {
  /** What is typed is kept under it. */
  key: string
  content: DraftContent
  lines: SendLine[]
  missing: number
  of: string
  draft: Schemas['DraftLine'] | undefined
}

const LISTS = { people: [], copied: [] }
const NOBODY = { people: [], roles: [], attach_mb: 0 }

/** What is on the form, as it is typed. */
function useTyped({ key, content: begun, lines: first }: Beginning) {
  const content = { ...LISTS, ...begun }
  const form = useKept('send', key.slice(0, 900))
  const [lines, setLines] = useField<SendLine[]>(form, 'lines', first)
  const [people, setPeople] = useField<string[]>(form, 'people', content.people)
  const [copied, setCopied] = useField<string[]>(form, 'copied', content.copied)
  const [purpose, setPurpose] = useField(form, 'purpose', content.purpose)
  const [note, setNote] = useField(form, 'note', content.note)
  const [wanted, setWanted] = useField(form, 'wanted', content.answer_wanted_on ?? '')
  const [looking, setLooking] = useField(form, 'looking', content.view_only)
  const [until, setUntil] = useField(form, 'until', content.expires_on ?? '')
  const along = useAlong(form, content)
  const typed = {
    revisions: lines.map((line) => line.revisionId),
    people,
    copied: copied.filter((each) => !people.includes(each)),
    purpose,
    note,
    answer_wanted_on: wanted || null,
    natives: along.natives,
    stamped: along.stamped,
    marks: along.marks,
    record: along.record,
    view_only: looking,
    expires_on: until || null,
    review_id: content.review_id ?? null,
    replaces: content.replaces,
  } satisfies DraftContent
  const fill = (said: Schemas['MatrixSays']) => {
    setPeople(said.people)
    setCopied(said.copied)
    setPurpose(said.purpose)
  }
  const given = { looking, setLooking, until, setUntil, setPeople, setCopied }
  const fields = { purpose, setPurpose, note, setNote, wanted, setWanted }
  return { form, lines, setLines, typed, along, fill, ...given, ...fields }
}

function useAlong(form: Kept, content: DraftContent) {
  const [natives, onNatives] = useField(form, 'natives', content.natives ?? false)
  const [stamped, onStamped] = useField(form, 'stamped', content.stamped ?? false)
  const [marks, onMarks] = useField<MarksAlong>(form, 'marks', content.marks ?? '')
  const [record, onRecord] = useField<DraftContent['record']>(form, 'record', content.record ?? null)
  return { natives, onNatives, stamped, onStamped, marks, onMarks, record: record ?? null, onRecord }
}

function useAddressees() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['addressees', project.id],
    queryFn: () => unwrap(api.GET('/api/addressees', { params: { query: { project_id: project.id } } })),
  })
}

function useCheck({ revisions = [], people = [], purpose = '' }: DraftContent) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['check-sending', revisions, people, purpose],
    queryFn: () =>
      unwrap(
        api.POST('/api/transmittals/check', { body: { project_id: project.id, revisions, people, purpose } }),
      ),
    placeholderData: (before) => before,
  })
}

/** A transmittal filled in like its cover sheet; what will happen, to whom, stands before the button. */
export function SendForm({ begun }: { begun: Beginning }) {
  const state = useTyped(begun)
  const { form, lines, setLines, typed } = state
  const addressees = useAddressees()
  const check = useCheck(typed)
  const acts = useSending(form, typed, begun.draft)
  return (
    <div className="h-full overflow-auto px-6 py-5">
      <form
        aria-label="A transmittal"
        className="mx-auto grid max-w-[1100px] gap-8 min-[900px]:grid-cols-[1fr_400px]"
        onSubmit={(event) => {
          event.preventDefault()
          acts.send.mutate()
        }}
      >
        <div className="flex min-w-0 flex-col gap-3">
          <Head begun={begun} />
          <Why state={state} purposes={addressees.data?.purposes ?? []} />
          <SendLines
            of={begun.of}
            lines={lines}
            missing={begun.missing}
            said={check.data}
            onChange={setLines}
          />
        </div>
        <To begun={begun} state={state} addressees={addressees} acts={acts} trouble={check.error} />
      </form>
    </div>
  )
}

type State = ReturnType<typeof useTyped>

/** For what it goes, by when an answer is wanted, and what is said with it. */
function Why({ state, purposes }: { state: State; purposes: readonly Schemas['PurposeOffered'][] }) {
  const answerOn = (code: string) => purposes.find((each) => each.code === code)?.answer_on ?? ''
  // What a purpose wants takes the place of what another wanted, not of what was typed.
  const choose = (code: string) => {
    if (!state.wanted || state.wanted === answerOn(state.purpose)) state.setWanted(answerOn(code))
    state.setPurpose(code)
  }
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Select label="Purpose of issue" value={state.purpose} onChange={choose} choices={purposes} />
        <DateField
          keep={state.form}
          label="Answer wanted by"
          value={state.wanted}
          onChange={state.setWanted}
        />
      </div>
      <TextArea
        keep={state.form}
        label="Covering note"
        rows={4}
        value={state.note}
        onChange={(event) => state.setNote(event.target.value)}
      />
    </>
  )
}

interface ToProps {
  begun: Beginning
  state: State
  addressees: ReturnType<typeof useAddressees>
  acts: ReturnType<typeof useSending>
  trouble: unknown
}

function To({ begun, state, addressees, acts, trouble }: ToProps) {
  const { people, roles, attach_mb: attachMb } = addressees.data ?? NOBODY
  const { typed } = state
  const { send, keep, discard } = acts
  const refused = send.error ?? keep.error ?? discard.error
  return (
    <div className="flex flex-col gap-3">
      <SendPeople
        people={people}
        roles={roles}
        ask={<AskMatrix revisions={typed.revisions} onSaid={state.fill} />}
        chosen={typed.people}
        copied={typed.copied}
        onChosen={state.setPeople}
        onCopied={state.setCopied}
      />
      <GoesAlong {...state.along} attachMb={attachMb} narrowed={state.looking || state.until !== ''} />
      <Given state={state} />
      <ErrorNote error={refused ?? addressees.error ?? trouble} />
      <Foot begun={begun} typed={typed} people={people} acts={acts} />
    </div>
  )
}

/** What their links let them do, and for how long. */
function Given({ state }: { state: State }) {
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="mb-1 font-medium">What their link gives</legend>
      <Checkbox
        label="To look at only, not to download"
        checked={state.looking}
        onChange={state.setLooking}
      />
      <DateField
        keep={state.form}
        label="It works until the end of"
        value={state.until}
        onChange={state.setUntil}
      />
    </fieldset>
  )
}

function Head({ begun: { draft, content } }: { begun: Beginning }) {
  return (
    <div>
      <h1 className="text-title font-semibold">Send out</h1>
      {draft && (
        <p className="text-second">
          {content.replaces ? 'A draft in place of one that is void' : 'A draft of your company'}
          {draft.why && `, ${draft.why}`}; kept by {draft.changed_by.name} <When at={draft.changed_at} time />
          .
        </p>
      )}
    </div>
  )
}

interface FootProps {
  begun: Beginning
  typed: DraftContent
  people: readonly Schemas['Addressee'][]
  acts: ReturnType<typeof useSending>
}

/** What will happen, to whom; and the acts. */
function Foot({ begun: { draft }, typed, people, acts }: FootProps) {
  const [sure, setSure] = useState(false)
  const to = typed.people ?? []
  const names = (ids: readonly string[]) =>
    people.filter((each) => ids.includes(each.who.id)).map((each) => each.who.name)
  const copies = names(typed.copied ?? [])
  const copyWords = copies.length ? ` A copy goes to ${copies.join(', ')}, of whom nothing is wanted.` : ''
  return (
    <div className="border border-line bg-surface p-3">
      <p className="mb-2 text-second">
        {to.length === 0
          ? 'Choose who receives it.'
          : `${names(to).join(', ')} will get a mail with a link to ${typed.view_only ? 'look at all documents, not to download them' : 'the cover sheet and all documents'}. What is sent stays as it is.${copyWords}`}
      </p>
      <div className="flex flex-wrap gap-2">
        <Button look="act" type="submit" busy={acts.send.isPending} why={reasonNot(typed)}>
          Send to {to.length || '…'}
        </Button>
        <Preview typed={typed} draft={draft} />
        <Button busy={acts.keep.isPending} onClick={() => acts.keep.mutate()}>
          {draft ? 'Keep the draft' : 'Keep as a draft'}
        </Button>
        {draft && (
          <Button
            look="stop"
            busy={acts.discard.isPending}
            onClick={() => (sure ? acts.discard.mutate(draft) : setSure(true))}
          >
            {sure ? 'Yes, discard it' : 'Discard the draft'}
          </Button>
        )}
        <Button onClick={() => history.back()}>Leave</Button>
      </div>
    </div>
  )
}
