import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Checkbox } from '../../../ui/Checkbox'
import { Select, TextField } from '../../../ui/Field'
import { LEVELS } from '../access/useAccess'
import type { Line, People } from './usePeople'
import type { Keep } from '../../../ui/useKept'

const NEW = 'new company'

interface Props {
  keep: Keep
  line: Line
  people: People
  /** Lines with a company that was typed in. */
  typed: readonly Line[]
  /** Gives every line this one's company and roles. */
  onForAll: (() => void) | undefined
  onChange: (part: Partial<Line>) => void
}

/** One person about to be added: who, from which company, as what; on demand, access and tools of their own. */
export function PersonRow({ keep, line, people, typed: others, onForAll, onChange }: Props) {
  const [more, setMore] = useState(false)
  const typed = !line.known
  return (
    <div className="min-w-0 flex-1">
      <div className="grid grid-cols-[1fr_1.2fr_1.1fr] gap-2">
        <TextField
          keep={keep}
          label="Name"
          value={line.name}
          disabled={!typed}
          onChange={(event) => onChange({ name: event.target.value })}
        />
        <TextField
          keep={keep}
          label="E-mail"
          value={line.email}
          disabled={!typed}
          onChange={(event) => onChange({ email: event.target.value, trouble: '' })}
        />
        {typed ? (
          <Select
            label="Company"
            value={line.company_id || (line.company_name ? NEW : '')}
            onChange={(id) => onChange(companyBy(id, line, others))}
            choices={[
              { code: '', words: 'Choose …' },
              ...people.companies.map((each) => ({ code: each.id, words: `${each.code}  ${each.name}` })),
              ...others.map((each) => ({ code: TYPED + each.key, words: `${each.company_name}, as above` })),
              { code: NEW, words: 'Another company …' },
            ]}
          />
        ) : (
          <p className="self-end pb-1.5">
            <span className="code">{line.known?.company}</span>{' '}
            <span className="text-second">known to the workspace</span>
          </p>
        )}
      </div>
      {typed && !line.company_id && line.company_name && (
        <NewCompany keep={keep} line={line} parts={people.parts} onChange={onChange} />
      )}
      <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1 text-list">
        {people.roles.map((role) => (
          <Checkbox
            key={role.code}
            label={role.name}
            hint={`brings ${role.level}${role.fixed ? ' everywhere' : ''}`}
            disabled={line.contact}
            checked={!line.contact && line.roles.includes(role.code)}
            onChange={(on) =>
              onChange({
                roles: on ? [...line.roles, role.code] : line.roles.filter((each) => each !== role.code),
              })
            }
          />
        ))}
        <Checkbox
          label="outside contact, without sign-in"
          checked={line.contact}
          onChange={(contact) => onChange({ contact })}
        />
        {onForAll && (
          <Button small onClick={onForAll}>
            The same for all lines
          </Button>
        )}
        {!line.contact && (
          <Button small aria-expanded={more} onClick={() => setMore(!more)}>
            Access and tools
          </Button>
        )}
      </div>
      {more && !line.contact && <More line={line} people={people} onChange={onChange} />}
      {line.trouble && <p className="mt-1 text-brick">{line.trouble}</p>}
    </div>
  )
}

const TYPED = 'typed:'

/** What choosing a company does to the line. */
function companyBy(id: string, line: Line, others: readonly Line[]): Partial<Line> {
  if (id === NEW) return { company_id: '', company_name: line.company_name || ' ' }
  const other = others.find((each) => TYPED + each.key === id)
  if (!other) return { company_id: id, company_name: '' }
  const { company_name, company_code, company_part } = other
  return { company_id: '', company_name, company_code, company_part }
}

interface CompanyProps extends Omit<Props, 'people' | 'typed' | 'onForAll'> {
  parts: string[]
}

function NewCompany({ keep, line, parts, onChange }: CompanyProps) {
  const { project } = useSeat()
  const name = line.company_name.trim()
  const [typed, setTyped] = useState(false)
  const proposed = useQuery({
    queryKey: ['company-code', project.id, name],
    queryFn: () =>
      unwrap(
        api.GET('/api/projects/{project_id}/company-code', {
          params: { path: { project_id: project.id }, query: { name } },
        }),
      ),
    enabled: name.length > 1,
    staleTime: Infinity,
  })
  const { code, known = false } = proposed.data ?? {}
  useEffect(() => {
    if (code && (!typed || known) && code !== line.company_code) onChange({ company_code: code })
  }, [code, typed, known, line.company_code, onChange])
  return (
    <div className="mt-1.5 grid grid-cols-[1fr_100px_170px] gap-2">
      <TextField
        keep={keep}
        label="Its name"
        value={line.company_name.trimStart()}
        onChange={(event) => onChange({ company_name: event.target.value || ' ' })}
      />
      <TextField
        keep={keep}
        label="Code"
        disabled={known}
        hint={known && <p className="text-note text-second">known to the workspace</p>}
        className="code"
        maxLength={6}
        title={code ? `${code} is free` : ''}
        value={line.company_code}
        onChange={(event) => {
          setTyped(true)
          onChange({ company_code: event.target.value.toUpperCase() })
        }}
      />
      <Select
        label="Part it plays"
        value={line.company_part}
        onChange={(company_part) => onChange({ company_part })}
        choices={parts.map((part) => ({ code: part, words: part }))}
      />
    </div>
  )
}

function More({ line, people, onChange }: Omit<Props, 'keep' | 'typed' | 'onForAll'>) {
  const brought = people.roles.filter((role) => line.roles.includes(role.code)).flatMap((role) => role.tools)
  const tools = line.tools ?? brought
  return (
    <div className="mt-1.5 flex flex-wrap items-end gap-4 bg-paper px-3 py-2 text-list">
      <Select
        label="Access"
        className="w-[210px]"
        value={line.level ?? ''}
        onChange={(level) => onChange({ level: (level || null) as Line['level'] })}
        choices={[
          { code: '', words: 'what the roles bring' },
          ...LEVELS.map((level) => ({ code: level, words: level })),
        ]}
      />
      <span className="flex gap-4 pb-1.5">
        {people.tools
          .filter((tool) => tool.on)
          .map((tool) => (
            <Checkbox
              key={tool.code}
              label={tool.words}
              checked={tools.includes(tool.code)}
              onChange={(on) =>
                onChange({ tools: on ? [...tools, tool.code] : tools.filter((each) => each !== tool.code) })
              }
            />
          ))}
      </span>
    </div>
  )
}
