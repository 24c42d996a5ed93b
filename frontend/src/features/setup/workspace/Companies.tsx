import { useState } from 'react'

import { counted } from '../../../domain/counted'
import { Button } from '../../../ui/Button'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useWorkspaceActs, type Workspace } from './useWorkspace'
import { useField, useKept } from '../../../ui/useKept'

type Company = Workspace['companies'][number]

/** The directory of companies: changed in place, and merged where one was typed twice. */
export function Companies({ workspace }: { workspace: Workspace }) {
  const [open, setOpen] = useState('')
  return (
    <ul className="max-w-[980px] border-t border-line">
      {workspace.companies.map((company) => (
        <li key={company.id} className="border-b border-line py-1.5">
          <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 md:grid md:grid-cols-[80px_minmax(0,1fr)_150px_180px_auto]">
            <span className="code font-bold">{company.code}</span>
            <span>{company.name}</span>
            <span>{company.part}</span>
            <span className="text-second">
              {counted(company.people, 'person', 'people')}, {counted(company.projects, 'project')}
            </span>
            <Button
              small
              aria-expanded={open === company.id}
              onClick={() => setOpen(open === company.id ? '' : company.id)}
            >
              Change
            </Button>
          </div>
          {open === company.id && (
            <Change company={company} workspace={workspace} onDone={() => setOpen('')} />
          )}
        </li>
      ))}
    </ul>
  )
}

interface ChangeProps {
  company: Company
  workspace: Workspace
  onDone: () => void
}

function Change({ company, workspace, onDone }: ChangeProps) {
  const { changeCompany, merge } = useWorkspaceActs()
  const form = useKept('workspace-company', company.id, company.name)
  const [name, setName] = useField(form, 'name', company.name)
  const [code, setCode] = useField(form, 'code', company.code)
  const [part, setPart] = useField(form, 'part', company.part)
  const [into, setInto] = useState('')
  const done = () => {
    form.drop()
    onDone()
  }
  const target = workspace.companies.find((each) => each.id === into)
  return (
    <div className="mt-2 flex flex-col gap-3 bg-surface px-3 py-3">
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          keep={form}
          label="Name"
          className="min-w-0 flex-1"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <TextField
          keep={form}
          label="Code"
          className="code w-[90px]"
          maxLength={6}
          value={code}
          onChange={(event) => setCode(event.target.value.toUpperCase())}
        />
        <Select
          label="Part it plays"
          className="w-[160px]"
          value={part}
          onChange={setPart}
          choices={workspace.parts.map((each) => ({ code: each, words: each }))}
        />
        <Button
          look="act"
          busy={changeCompany.isPending}
          onClick={() => changeCompany.mutate({ id: company.id, name, code, part }, { onSuccess: done })}
        >
          Save
        </Button>
      </div>
      <p className="text-list text-second">Numbers that were given keep the code they were given with.</p>
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="The same company, typed twice? Merge it into"
          className="w-[320px]"
          value={into}
          onChange={setInto}
          choices={[
            { code: '', words: 'Choose …' },
            ...workspace.companies
              .filter((each) => each.id !== company.id)
              .map((each) => ({ code: each.id, words: `${each.code}  ${each.name}` })),
          ]}
        />
        <Button
          look="stop"
          busy={merge.isPending}
          why={!target && 'Choose the other company first.'}
          onClick={() => merge.mutate({ from_id: company.id, into_id: into }, { onSuccess: onDone })}
        >
          {target ? `Merge ${company.code} into ${target.code}` : 'Merge'}
        </Button>
      </div>
      {target && (
        <p className="text-list">
          {counted(company.people, 'person', 'people')} and all access of {company.name} go over to{' '}
          {target.name}. What it sent keeps its name and numbers. This cannot be undone.
        </p>
      )}
      <ErrorNote error={changeCompany.error ?? merge.error} />
    </div>
  )
}
