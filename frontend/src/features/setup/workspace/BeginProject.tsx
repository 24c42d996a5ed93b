import { useQuery } from '@tanstack/react-query'
import { type FormEvent } from 'react'

import { api, unwrap } from '../../../api/client'
import { useMeQuery } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useWorkspaceActs, type Workspace } from './useWorkspace'
import { useField, useKept, type Keep } from '../../../ui/useKept'

const NEW = 'new company'
const ZONES = Intl.supportedValuesOf('timeZone')

/** A project from a starter, with the one who leads it. */
export function BeginProject({ workspace, onClose }: { workspace: Workspace; onClose: () => void }) {
  const me = useMeQuery()
  const starters = useQuery({ queryKey: ['starters'], queryFn: () => unwrap(api.GET('/api/starters')) })
  const { make } = useWorkspaceActs()
  const form = useKept('begin-project', 'new')
  const [given, setGiven] = useField(form, 'given', {
    number: '',
    name: '',
    time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    starter_id: '',
    lead_email: me.data?.email ?? '',
    lead_name: '',
    lead_company_id: '',
    company_name: '',
    company_code: '',
    company_part: workspace.parts[0] ?? '',
  })
  const set = (part: Partial<typeof given>) => setGiven({ ...given, ...part })
  const starter = given.starter_id || starters.data?.starters[0]?.id || ''
  const known = workspace.people.find((each) => each.email === given.lead_email.trim().toLowerCase())
  const chosen = starters.data?.starters.find((each) => each.id === starter)

  function submit(event: FormEvent) {
    event.preventDefault()
    const { company_name: name, company_code: code, company_part: part, lead_company_id, ...rest } = given
    const lead_company = !known && lead_company_id === NEW ? { name, code, part } : null
    make.mutate(
      { ...rest, starter_id: starter, lead_company, lead_company_id: lead_company ? '' : lead_company_id },
      {
        onSuccess: () => {
          form.drop()
          onClose()
        },
      },
    )
  }

  return (
    <Dialog
      open
      title="Begin a project"
      about="The starter brings numbers, codes, roles and folders; its lead does the rest."
      onClose={onClose}
    >
      <form onSubmit={submit} className="grid grid-cols-[140px_1fr] gap-3">
        <TextField
          keep={form}
          label="Number"
          className="code"
          required
          maxLength={10}
          value={given.number}
          onChange={(event) => set({ number: event.target.value.toUpperCase() })}
        />
        <TextField
          keep={form}
          label="Name"
          required
          value={given.name}
          onChange={(event) => set({ name: event.target.value })}
        />
        <div className="col-span-2">
          <Select
            label="Starter"
            value={starter}
            onChange={(starter_id) => set({ starter_id })}
            choices={(starters.data?.starters ?? []).map((each) => ({ code: each.id, words: each.name }))}
          />
          <p className="mt-0.5 text-note text-second">{chosen?.purpose}</p>
        </div>
        <Select
          label="Time zone"
          className="col-span-2"
          value={given.time_zone}
          onChange={(time_zone) => set({ time_zone })}
          choices={[...new Set([given.time_zone, ...ZONES])].map((zone) => ({ code: zone, words: zone }))}
        />
        <TextField
          keep={form}
          label="E-mail of its lead"
          type="email"
          className="col-span-2"
          required
          value={given.lead_email}
          onChange={(event) => set({ lead_email: event.target.value })}
          hint={known && <p className="text-note text-second">{known.who.name}, known to the workspace</p>}
        />
        {!known && (
          <>
            <TextField
              keep={form}
              label="Name of the lead"
              className="col-span-2"
              value={given.lead_name}
              onChange={(event) => set({ lead_name: event.target.value })}
            />
            <Select
              label="Company"
              className="col-span-2"
              value={given.lead_company_id}
              onChange={(lead_company_id) => set({ lead_company_id })}
              choices={[
                { code: '', words: 'Choose …' },
                ...workspace.companies.map((each) => ({
                  code: each.id,
                  words: `${each.code}  ${each.name}`,
                })),
                { code: NEW, words: 'Another company …' },
              ]}
            />
            {given.lead_company_id === NEW && (
              <NewCompany keep={form} given={given} parts={workspace.parts} onChange={set} />
            )}
          </>
        )}
        <div className="col-span-2 flex flex-col gap-3">
          <ErrorNote error={make.error ?? starters.error} />
          <Button look="act" type="submit" className="self-start" busy={make.isPending || !starter}>
            Begin the project
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

interface Company {
  company_name: string
  company_code: string
  company_part: string
}

interface CompanyProps {
  keep: Keep
  given: Company
  parts: readonly string[]
  onChange: (part: Partial<Company>) => void
}

/** A company that the workspace does not know yet, made with the project. */
function NewCompany({ keep, given, parts, onChange }: CompanyProps) {
  return (
    <div className="col-span-2 grid grid-cols-[1fr_110px_150px] gap-3 max-sm:grid-cols-1">
      <TextField
        keep={keep}
        label="Its name"
        required
        value={given.company_name}
        onChange={(event) => onChange({ company_name: event.target.value })}
      />
      <TextField
        keep={keep}
        label="Its code"
        className="code"
        required
        pattern="[A-Z]{2,6}"
        title="Two to six capitals, as it stands in numbers"
        maxLength={6}
        value={given.company_code}
        onChange={(event) => onChange({ company_code: event.target.value.toUpperCase() })}
      />
      <Select
        label="Its part"
        value={given.company_part}
        onChange={(company_part) => onChange({ company_part })}
        choices={parts.map((each) => ({ code: each, words: each }))}
      />
    </div>
  )
}
