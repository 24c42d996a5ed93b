import { useState } from 'react'

import { Button } from '../../../ui/Button'
import { Checkbox } from '../../../ui/Checkbox'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useWorkspaceActs, type Workspace } from './useWorkspace'
import { useField, useKept } from '../../../ui/useKept'

type Person = Workspace['people'][number]

const STATES: Record<string, string> = { active: 'active', contact: 'no sign-in', removed: 'removed' }

/** The directory of people. */
export function Directory({ workspace }: { workspace: Workspace }) {
  const [open, setOpen] = useState('')
  return (
    <ul className="max-w-[1100px] border-t border-line">
      {workspace.people.map((person) => (
        <li key={person.who.id} className="border-b border-line py-1.5">
          <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 md:grid md:grid-cols-[minmax(0,1fr)_60px_minmax(0,1.2fr)_90px_80px_minmax(0,1fr)_auto]">
            <span className="font-medium">{person.who.name}</span>
            <span className="code">{person.who.company}</span>
            <span className="truncate text-second">{person.email}</span>
            <span>{STATES[person.state]}</span>
            <span className="font-semibold">{person.steward && 'steward'}</span>
            <span className="code text-second">{person.projects.join(' ')}</span>
            <Button
              small
              aria-expanded={open === person.who.id}
              onClick={() => setOpen(open === person.who.id ? '' : person.who.id)}
            >
              Change
            </Button>
          </div>
          {open === person.who.id && (
            <Change person={person} workspace={workspace} onDone={() => setOpen('')} />
          )}
        </li>
      ))}
    </ul>
  )
}

interface ChangeProps {
  person: Person
  workspace: Workspace
  onDone: () => void
}

function Change({ person, workspace, onDone }: ChangeProps) {
  const { changePerson } = useWorkspaceActs()
  const company = workspace.companies.find((each) => each.code === person.who.company)
  const form = useKept('workspace-person', person.who.id, person.who.name)
  const [name, setName] = useField(form, 'name', person.who.name)
  const [company_id, setCompany] = useField(form, 'company_id', company?.id ?? '')
  const [steward, setSteward] = useField(form, 'steward', person.steward)
  const state = person.state === 'removed' ? 'removed' : 'active'
  const save = (next: string) =>
    changePerson.mutate(
      { id: person.who.id, name, company_id, steward: next === 'active' && steward, state: next },
      {
        onSuccess: () => {
          form.drop()
          onDone()
        },
      },
    )
  return (
    <div className="mt-2 flex flex-col gap-3 bg-surface px-3 py-3">
      <div className="flex flex-wrap items-end gap-4">
        <TextField
          keep={form}
          label="Name"
          className="w-[220px]"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Select
          label="Company"
          className="w-[260px]"
          value={company_id}
          onChange={setCompany}
          choices={workspace.companies.map((each) => ({
            code: each.id,
            words: `${each.code}  ${each.name}`,
          }))}
        />
        <span className="pb-1.5">
          <Checkbox
            label="steward of the workspace"
            checked={steward}
            disabled={person.state !== 'active'}
            onChange={setSteward}
          />
        </span>
        <Button look="act" busy={changePerson.isPending} onClick={() => save(state)}>
          Save
        </Button>
        <Leaving removed={person.state === 'removed'} busy={changePerson.isPending} onSave={save} />
      </div>
      <ErrorNote error={changePerson.error} />
      {person.second_factor_on && <LostFactor person={person} onDone={onDone} />}
    </div>
  )
}

/** For somebody who has lost the app and the codes: with a reason that they, and the trail, are told. */
function LostFactor({ person, onDone }: { person: Person; onDone: () => void }) {
  const { resetFactor } = useWorkspaceActs()
  const form = useKept('reset-factor', person.who.id, person.who.name)
  const [why, setWhy] = useField(form, 'why', '')
  return (
    <form
      className="flex flex-wrap items-end gap-3 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault()
        resetFactor.mutate(
          { id: person.who.id, why },
          {
            onSuccess: () => {
              form.drop()
              onDone()
            },
          },
        )
      }}
    >
      <TextField
        keep={form}
        label="Why their second factor is switched off, and how you know that it is they who ask"
        className="min-w-[280px] flex-1"
        required
        value={why}
        onChange={(event) => setWhy(event.target.value)}
      />
      <Button
        look="stop"
        type="submit"
        busy={resetFactor.isPending}
        why={!why.trim() && 'Say why: it stands in the trail, and they read it.'}
      >
        Switch it off
      </Button>
      <p className="w-full text-note text-second">
        They are signed out everywhere and told by mail. They set a new one up under their account.
      </p>
      <ErrorNote error={resetFactor.error} />
    </form>
  )
}

interface LeavingProps {
  removed: boolean
  busy: boolean
  onSave: (state: string) => void
}

function Leaving({ removed, busy, onSave }: LeavingProps) {
  return removed ? (
    <Button busy={busy} onClick={() => onSave('active')}>
      Bring back
    </Button>
  ) : (
    <Button look="stop" busy={busy} onClick={() => onSave('removed')}>
      Remove from the workspace
    </Button>
  )
}
