import { useState } from 'react'

import { counted } from '../../../domain/counted'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Input } from '../../../ui/Input'
import { slipsOf } from '../../../ui/slips'
import { ListTable, type Column } from '../../../ui/ListTable'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { When } from '../../../ui/Standing'
import { AddPeople } from './AddPeople'
import { MemberPanel } from './MemberPanel'
import { Section } from '../Section'
import { STATES, usePeople, type MemberLine, type People } from './usePeople'

/** Who is in the project, and as what. */
export function PeopleSection() {
  const { project } = useSeat()
  const people = usePeople()
  const [open, setOpen] = useState<string | undefined>()
  const [adding, setAdding] = useState(false)
  const [words, setWords] = useState('')
  const members = people.data?.members ?? []
  const shown = members.find((each) => each.who.id === open)
  const rows = members.filter((each) =>
    `${each.who.name} ${each.email} ${each.company_name} ${each.who.company}`
      .toLowerCase()
      .includes(words.toLowerCase()),
  )
  const here = members.filter((each) => each.state !== 'removed').length
  return (
    <div className="flex min-w-0 flex-1">
      <Section
        title="People"
        about={
          people.data
            ? `${here} in the project, of ${counted(people.data.companies.length, 'company', 'companies')}`
            : ''
        }
        acts={
          <>
            <Input
              keep="passing"
              type="search"
              aria-label="Filter people"
              placeholder="Filter"
              className="w-[150px]"
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
            {project.leads && (
              <Button look="act" onClick={() => setAdding(true)}>
                Add people
              </Button>
            )}
          </>
        }
      >
        <ErrorNote error={people.error} />
        {people.isPending && <Loading what="the people" />}
        {people.data && (
          <ListTable
            label="People"
            rows={rows}
            rowId={(row) => row.who.id}
            columns={columnsFor(people.data, Boolean(shown))}
            slips={slipsOf(columnsFor(people.data, false), {
              what: 'name',
              beside: ['company'],
              below: ['roles', 'state'],
            })}
            openId={open}
            onShow={(row) => setOpen(row.who.id)}
            empty={<p className="px-5 py-6 text-second">Nobody has these words.</p>}
          />
        )}
      </Section>
      {shown && people.data && (
        <MemberPanel
          key={`${shown.who.id}/${shown.version}/${shown.state}`}
          member={shown}
          people={people.data}
          onClose={() => setOpen(undefined)}
        />
      )}
      {adding && people.data && <AddPeople people={people.data} onClose={() => setAdding(false)} />}
    </div>
  )
}

function columnsFor(people: People, narrow: boolean): Column<MemberLine>[] {
  const role = (code: string) => people.roles.find((each) => each.code === code)?.name ?? code
  const all: Column<MemberLine>[] = [
    { key: 'name', head: 'Name', width: 'minmax(130px, 1fr)', cell: (row) => row.who.name },
    {
      key: 'company',
      head: 'Company',
      width: '78px',
      cell: (row) => (
        <span className="code" title={row.company_name}>
          {row.who.company}
        </span>
      ),
    },
    {
      key: 'roles',
      head: 'Roles',
      width: 'minmax(120px, 1fr)',
      cell: (row) => row.roles.map(role).join(', ') || '–',
    },
    { key: 'email', head: 'E-mail', width: 'minmax(150px, 1.2fr)', cell: (row) => row.email },
    {
      key: 'level',
      head: 'Up to',
      width: '60px',
      cell: (row) => (row.state === 'contact' ? '–' : row.level),
    },
    {
      key: 'state',
      head: 'State',
      width: '112px',
      cell: (row) => (
        <span
          className={row.state === 'invited' ? 'text-ochre' : row.state === 'active' ? '' : 'text-second'}
        >
          {STATES[row.state]}
        </span>
      ),
    },
    {
      key: 'invited',
      head: 'Invited',
      width: '72px',
      cell: (row) => (row.invited_at ? <When at={row.invited_at} /> : ''),
    },
  ]
  return narrow ? all.filter((each) => ['name', 'company', 'roles', 'state'].includes(each.key)) : all
}
