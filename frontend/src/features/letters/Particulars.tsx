import { useState } from 'react'

import { useSeat } from '../../api/me'
import { dayText } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { DateField } from '../../ui/DateField'
import { Select, TextField } from '../../ui/Field'
import { useLetterChoices } from './useLetters'
import type { Draft, Writing } from './useWriting'

interface Props {
  draft: Draft
  writing: Writing
}

/** References, and a letter that came on paper: there where it is wanted. */
export function Particulars({ draft, writing }: Props) {
  const { now, set, form } = writing
  const isThere = Boolean(now.own_ref || now.other_ref || now.paper_from)
  const [open, setOpen] = useState(isThere)
  if (!open)
    return (
      <Button small className="self-start" onClick={() => setOpen(true)}>
        {draft.may_put_in_paper ? 'References, or a letter that came on paper …' : 'References …'}
      </Button>
    )
  const paper = now.paper_from !== ''
  return (
    <fieldset className="flex flex-col gap-3 border border-line p-3">
      <legend className="px-1 text-note text-second">
        {draft.may_put_in_paper ? 'References, a letter on paper' : 'References'}
      </legend>
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        <TextField
          keep={form}
          label={paper ? 'Their reference' : 'Our reference'}
          value={now.own_ref}
          maxLength={120}
          onChange={(event) => set({ own_ref: event.target.value })}
        />
        <TextField
          keep={form}
          label={paper ? 'Our reference, as they name it' : 'Your reference'}
          value={now.other_ref}
          maxLength={120}
          onChange={(event) => set({ other_ref: event.target.value })}
        />
      </div>
      {draft.may_put_in_paper && <OnPaper draft={draft} writing={writing} />}
    </fieldset>
  )
}

function OnPaper({ writing }: Props) {
  const { now, set, form } = writing
  const choices = useLetterChoices()
  const people = choices.data?.people ?? []
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="It came on paper from"
        value={now.paper_from}
        onChange={(paper_from) => set({ paper_from })}
        choices={[
          { code: '', words: 'nobody: I write it' },
          ...people.map((each) => ({ code: each.id, words: `${each.name} (${each.company})` })),
        ]}
        className="w-[280px]"
      />
      {now.paper_from && (
        <>
          <DateField
            keep={form}
            label="The day it bears"
            value={now.dated_on ?? ''}
            onChange={(day) => set({ dated_on: day || null })}
            className="w-[180px]"
          />
          <DateField
            keep={form}
            label="Came on"
            value={now.received_on ?? ''}
            onChange={(day) => set({ received_on: day || null })}
            className="w-[180px]"
          />
          <p className="text-list text-second">Its scan is added below: that is the evidence.</p>
        </>
      )}
    </div>
  )
}

/** Of a notice: since when its time bar runs, and how it was served. In a thread, how else, with the evidence. */
export function Notice({ draft, writing }: Props) {
  const { now, set, form } = writing
  const choices = useLetterChoices()
  const bar = choices.data?.kinds.find((each) => each.code === now.kind)?.bar
  if (!bar || now.paper_from) return null
  return (
    <div className="flex flex-wrap items-end gap-3">
      {draft.is_new && (
        <DateField
          keep={form}
          label="Became aware of it on"
          value={now.aware_on ?? ''}
          onChange={(day) => set({ aware_on: day || null })}
          className="w-[180px]"
        />
      )}
      <Served draft={draft} writing={writing} />
      <p className="min-w-[220px] flex-1 text-list text-second">
        {draft.is_new
          ? barWords(draft, now, bar)
          : now.served_how && 'Add what shows it: a receipt, a photograph.'}
      </p>
    </div>
  )
}

function barWords(draft: Draft, now: Writing['now'], bar: string): string {
  if (!now.aware_on || !draft.bar_on)
    return `It is to be served within ${bar} from the day one became aware of it.`
  const desks = now.private
    ? 'this stands on your Desk'
    : 'this stands on your Desk, and on that of your company’s leads'
  return `It is to be served by ${dayText(draft.bar_on, '')}, ${bar} from then. Until it is, ${desks}.`
}

function Served({ draft, writing }: Props) {
  const { now, set, form } = writing
  const ways = useLetterChoices().data?.served ?? []
  const first = { code: '', words: draft.is_new ? 'through Nod, as it is sent' : 'nothing new' }
  return (
    <>
      <Select
        label="Served"
        value={now.served_how}
        onChange={(served_how) => set({ served_how })}
        choices={[first, ...ways.slice(draft.is_new ? 1 : 0).map((each) => ({ code: each, words: each }))]}
        className="w-[220px]"
      />
      {now.served_how && (
        <DateField
          keep={form}
          label="On"
          value={now.served_on ?? ''}
          onChange={(day) => set({ served_on: day || null })}
          className="w-[180px]"
        />
      )}
    </>
  )
}

/** Who looks at it, or signs it, before it goes. */
export function BeforeItGoes({ draft, writing }: Props) {
  const { now, set } = writing
  const { me } = useSeat()
  const choices = useLetterChoices()
  const kind = choices.data?.kinds.find((each) => each.code === now.kind)
  const people = (choices.data?.people ?? []).filter((each) => !each.contact && each.id !== me.person.id)
  if (now.paper_from) return null
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="Before it goes"
        value={now.checker_id}
        onChange={(checker_id) => set({ checker_id })}
        choices={[
          {
            code: '',
            words: kind?.looked_at && draft.is_new ? 'choose who looks at it' : 'nobody else looks at it',
          },
          ...people.map((each) => ({ code: each.id, words: `${each.name} (${each.company})` })),
        ]}
        className="w-[280px]"
      />
      {now.checker_id && (
        <Checkbox
          label="and signs it"
          checked={now.signs}
          onChange={(signs) => set({ signs })}
          hint="Their name stands under it."
        />
      )}
    </div>
  )
}
