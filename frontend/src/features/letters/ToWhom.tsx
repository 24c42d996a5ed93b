import { X } from 'lucide-react'
import { useState } from 'react'

import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { ChooseMany } from '../../ui/ChooseMany'
import { Select, TextField } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { ErrorNote } from '../../ui/Notes'
import { useField } from '../../ui/useKept'
import { useLetterChoices } from './useLetters'
import type { Draft, Writing } from './useWriting'

type Party = Writing['now']['to'][number]

const keyOf = (party: Party) => `${party.kind} ${party.id}`

function partyOf(key: string): Party {
  const [kind, id = ''] = key.split(' ')
  return { kind: kind === 'company' ? 'company' : 'person', id }
}

function useChoosable() {
  const choices = useLetterChoices()
  const people = (choices.data?.people ?? []).map((each) => ({
    key: `person ${each.id}`,
    words: each.name,
    note: each.contact ? `${each.company}, outside` : each.company,
  }))
  const companies = (choices.data?.companies ?? []).map((each) => ({
    key: `company ${each.id}`,
    words: each.name,
    note: `company, ${each.people}`,
  }))
  return { choosable: [...people, ...companies], error: choices.error }
}

/** Of whom the answer is wanted once it goes to these: who was chosen, or of a question the first it goes to. */
function askedOf(to: readonly Party[], now: Writing['now'], asks: boolean): string {
  const companies = [...to, ...now.copied].some((each) => each.kind === 'company')
  const there = companies || [...to, ...now.copied].some((each) => each.id === now.asked_id)
  if (now.asked_id && there) return now.asked_id
  return asks ? (to.find((each) => each.kind === 'person')?.id ?? '') : ''
}

/** To whom it goes and who is copied in; somebody new, by e-mail; what those see who are new in the thread. */
export function ToWhom({ draft, writing }: { draft: Draft; writing: Writing }) {
  const { now, set } = writing
  const { choosable, error } = useChoosable()
  const choices = useLetterChoices()
  const asks = choices.data?.kinds.find((each) => each.code === now.kind)?.asks ?? false
  const setTo = (to: Party[]) => set({ to, asked_id: askedOf(to, now, draft.is_new && asks) })
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-4 max-md:grid-cols-1">
        <ChooseMany
          label="To"
          choices={choosable}
          chosen={now.to.map(keyOf)}
          onChange={(keys) => setTo(keys.map(partyOf))}
          placeholder="People or companies"
        />
        <ChooseMany
          label="Copied"
          choices={choosable}
          chosen={now.copied.map(keyOf)}
          onChange={(keys) => set({ copied: keys.map(partyOf) })}
          placeholder="People or companies"
        />
      </div>
      {draft.may_add_contacts && <NewContacts writing={writing} />}
      <WhatTheySee draft={draft} writing={writing} />
      <ErrorNote error={error} />
    </div>
  )
}

/** Who is new in a thread sees it from here on, or all of it. */
function WhatTheySee({ draft, writing }: { draft: Draft; writing: Writing }) {
  const { now, set } = writing
  const before = new Set(draft.began_with.map(keyOf))
  const isNew = (each: Party) => !before.has(keyOf(each))
  const added = [...now.to, ...now.copied].some(isNew) || now.contacts.length > 0
  if (draft.is_new || (!added && !now.all_of_it)) return null
  return (
    <Checkbox
      label="Who is new in the thread sees all that was written before"
      checked={now.all_of_it}
      onChange={(all_of_it) => set({ all_of_it })}
      hint="Otherwise they see it from this message on."
    />
  )
}

/** People outside who are not in the project yet: they become contacts as it is sent. */
function NewContacts({ writing }: { writing: Writing }) {
  const { now, set } = writing
  const [open, setOpen] = useState(false)
  return (
    <div className="flex flex-col gap-2">
      {now.contacts.map((each) => (
        <p key={each.email} className="flex items-center gap-2 text-list">
          {each.name} <span className="text-second">{each.email}, becomes a contact as it is sent</span>
          <IconButton
            label={`Without ${each.name}`}
            icon={<X size={14} />}
            onClick={() => set({ contacts: now.contacts.filter((other) => other.email !== each.email) })}
          />
        </p>
      ))}
      {open ? (
        <NewContact writing={writing} onDone={() => setOpen(false)} />
      ) : (
        <Button small className="self-start" onClick={() => setOpen(true)}>
          Somebody who is not in the list …
        </Button>
      )}
    </div>
  )
}

function NewContact({ writing, onDone }: { writing: Writing; onDone: () => void }) {
  const { now, set, form } = writing
  const choices = useLetterChoices()
  const [name, setName] = useField(form, 'new name', '')
  const [email, setEmail] = useField(form, 'new email', '')
  const [company, setCompany] = useField(form, 'new company', '')
  const why = !name.trim() || !email.includes('@') || !company ? 'Give a name, an address and a company.' : ''
  const add = () => {
    const others = now.contacts.filter((each) => each.email !== email.trim())
    const added = { name: name.trim(), email: email.trim(), company_id: company, how: 'to' as const }
    set({ contacts: [...others, added] })
    setName('')
    setEmail('')
    onDone()
  }
  return (
    <fieldset className="flex flex-wrap items-end gap-2 border border-line p-2">
      <legend className="px-1 text-note text-second">Somebody new, outside</legend>
      <TextField
        keep={form}
        label="Name"
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        keep={form}
        label="E-mail"
        type="email"
        value={email}
        maxLength={120}
        onChange={(event) => setEmail(event.target.value)}
      />
      <Select
        label="Company"
        value={company}
        onChange={setCompany}
        choices={[
          { code: '', words: 'Choose …' },
          ...(choices.data?.all_companies ?? []).map((each) => ({
            code: each.id,
            words: `${each.code} ${each.name}`,
          })),
        ]}
      />
      <Button why={why} onClick={add}>
        Add
      </Button>
      <Button onClick={onDone}>Cancel</Button>
    </fieldset>
  )
}
