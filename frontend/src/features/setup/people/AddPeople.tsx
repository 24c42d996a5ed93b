import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Trash2 } from 'lucide-react'
import { useState, type ClipboardEvent, type KeyboardEvent } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'
import { useSeat } from '../../../api/me'
import { Refused } from '../../../api/problems'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { TextArea } from '../../../ui/Field'
import { Lines } from '../../../ui/Input'
import { ErrorNote } from '../../../ui/Notes'
import { PersonRow } from './PersonRow'
import { IconButton } from '../../../ui/IconButton'
import type { Line, People } from './usePeople'
import { sendOnce, useField, useKept, type Kept } from '../../../ui/useKept'

type Known = Schemas['Known']

interface Props {
  people: People
  onClose: () => void
}

/** One field takes names and addresses, typed or pasted; below it a line a person; one act sends the invitations. */
export function AddPeople({ people, onClose }: Props) {
  const { project } = useSeat()
  const client = useQueryClient()
  const form = useKept('add-people', project.id, project.number)
  const [lines, setLines] = useField<Line[]>(form, 'lines', [])
  const [message, setMessage] = useField(form, 'message', '')
  const add = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/people', {
            ...more,
            body: { project_id: project.id, message, people: lines.map(toAdd) },
          }),
        ),
      ),
    onSuccess: async () => {
      await fetchAnew(client, ['people', 'access'])
    },
  })
  const wrong = add.error instanceof Refused ? add.error.problem.about : ''
  const ready = lines.length > 0 && lines.every((line) => isReady(line))

  function take(found: readonly Found[]) {
    setLines((old) => {
      const there = new Set(old.map((line) => line.email))
      const before = old.at(-1)
      return [...old, ...found.filter((each) => !there.has(each.email)).map((each) => fresh(each, before))]
    })
  }

  if (add.isSuccess) return <Sent added={add.data.people} onClose={onClose} />
  const invited = lines.filter((line) => !line.contact).length
  return (
    <Dialog
      open
      wide
      title="Add people"
      about="Type names or e-mail addresses, or paste them from a mail or a spreadsheet column."
      onClose={onClose}
    >
      <Entry form={form} onFound={take} />
      <ul aria-label="People to add" className="mt-3 flex flex-col">
        {lines.map((line) => (
          <li
            key={line.key}
            className={`flex items-start gap-2 border-t border-line py-2 ${wrong && wrong === line.email ? 'bg-brick-tint' : ''}`}
          >
            <PersonRow
              keep={form}
              line={line}
              people={people}
              typed={typedIn(lines, line)}
              onForAll={lines.length > 1 ? () => setLines(sameForAll(line)) : undefined}
              onChange={(part) =>
                setLines((old) => old.map((each) => (each.key === line.key ? { ...each, ...part } : each)))
              }
            />
            <IconButton
              label={`Take ${line.name || line.email} off the list`}
              icon={<Trash2 size={15} />}
              onClick={() => setLines((old) => old.filter((each) => each.key !== line.key))}
            />
          </li>
        ))}
      </ul>
      {lines.length > 0 && (
        <>
          <TextArea
            keep={form}
            label="A few words for the invitation"
            className="mt-2"
            value={message}
            onChange={(event) => setMessage(event.target.value)}
          />
          <div className="mt-3">
            <ErrorNote error={add.error} />
          </div>
          <div className="mt-3 flex items-center gap-3">
            <Button
              look="act"
              busy={add.isPending}
              why={!ready && 'A line still lacks an address or a company.'}
              onClick={() => add.mutate()}
            >
              {invited
                ? `Add ${lines.length} and send ${invited} ${invited === 1 ? 'invitation' : 'invitations'}`
                : `Add ${lines.length}`}
            </Button>
            {!ready && <span className="text-second">Each line needs an address, a company and a role.</span>}
          </div>
        </>
      )}
    </Dialog>
  )
}

function Sent({ added, onClose }: { added: readonly Schemas['Added'][]; onClose: () => void }) {
  const invited = added.filter((each) => each.state === 'invited')
  return (
    <Dialog open title="Added" about="What happened" onClose={onClose}>
      <ul role="status" className="mb-4 text-read">
        {added.map((each) => (
          <li key={each.person_id}>
            {each.name}:{' '}
            {each.state === 'invited'
              ? 'invited by mail'
              : each.state === 'active'
                ? 'can go in at once, and was told by mail'
                : 'an outside contact'}
          </li>
        ))}
      </ul>
      {invited.length > 0 && (
        <p className="mb-4 text-second">
          The links work once, for 14 days. They can be sent again from the list.
        </p>
      )}
      <Button look="act" onClick={onClose}>
        Done
      </Button>
    </Dialog>
  )
}

interface Found {
  name: string
  email: string
  known: Known | null
  trouble: string
  /** As it was pasted: one of the workspace by its id, or a new one by its name. */
  company_id?: string
  company?: string
}

/** Of which company: as it was known or pasted, otherwise as on the line before. */
function companyOf({ known, company_id, company }: Found, before: Line | undefined) {
  if (known) return { company_id: known.company_id, company_name: '', company_code: '' }
  if (company_id || company)
    return { company_id: company_id ?? '', company_name: company ?? '', company_code: '' }
  const { company_id: id = '', company_name = '', company_code = '' } = before ?? {}
  return { company_id: id, company_name, company_code }
}

function fresh(found: Found, before: Line | undefined): Line {
  const { name, email, known, trouble } = found
  return {
    key: `${email}/${name}/${Math.random()}`,
    ...{ name, email, known, trouble },
    ...companyOf(found, before),
    company_part: before?.company_part ?? 'subcontractor',
    roles: before?.roles ?? ['reviewer'],
    contact: before?.contact ?? false,
    level: null,
    tools: null,
  }
}

/** Companies that were typed on other lines: each is offered on this one. */
function typedIn(lines: readonly Line[], here: Line): Line[] {
  const named = lines.filter((each) => each !== here && !each.company_id && each.company_name.trim())
  return [...new Map(named.map((each) => [each.company_name.trim(), each])).values()]
}

const sameForAll = (from: Line) => (old: Line[]) =>
  old.map((each) => {
    const { roles, contact, company_id, company_name, company_code, company_part } = from
    const company = { company_id, company_name, company_code, company_part }
    return { ...each, roles, contact, ...(each.known ? {} : company) }
  })

function isReady(line: Line): boolean {
  const company = line.company_id || (line.company_name && line.company_code)
  return Boolean(line.email && !line.trouble && company && (line.contact || line.roles.length))
}

function toAdd(line: Line): Schemas['PersonToAdd'] {
  return {
    name: line.name,
    email: line.email,
    company_id: line.company_id,
    company: line.company_id
      ? null
      : { name: line.company_name, code: line.company_code, part: line.company_part },
    job: '',
    roles: line.contact ? [] : line.roles,
    contact: line.contact,
    level: line.level,
    tools: line.tools,
  }
}

/** The one field. What the workspace knows is suggested while one types; Enter takes what is typed. */
interface EntryProps {
  form: Kept
  onFound: (found: readonly Found[]) => void
}

function Entry({ form, onFound }: EntryProps) {
  const { project } = useSeat()
  const [words, setWords] = useField(form, 'words', '')
  const [picked, setPicked] = useState(0)
  const suggestions = useQuery({
    queryKey: ['suggestions', project.id, words],
    queryFn: () =>
      unwrap(
        api.GET('/api/projects/{project_id}/people/suggestions', {
          params: { path: { project_id: project.id }, query: { words } },
        }),
      ),
    enabled: words.trim().length > 1 && !words.includes('\n'),
  })
  const read = useMutation({
    mutationFn: (text: string) =>
      unwrap(api.POST('/api/people/read', { body: { project_id: project.id, text } })),
    onSuccess: (found) => {
      onFound(found.people)
      setWords('')
    },
  })
  const known = words.trim().length > 1 ? (suggestions.data?.people ?? []) : []

  function choose(person: Known) {
    const trouble = person.state && person.state !== 'removed' ? 'In this project already.' : ''
    onFound([{ name: person.name, email: person.email, known: person, trouble }])
    setWords('')
    setPicked(0)
  }

  function key(event: KeyboardEvent) {
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault()
      setPicked((old) => Math.max(0, Math.min(known.length - 1, old + (event.key === 'ArrowDown' ? 1 : -1))))
    } else if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault()
      const person = known[picked]
      if (person && !words.includes('@')) choose(person)
      else if (words.trim()) read.mutate(words)
    }
  }

  function paste(event: ClipboardEvent) {
    const text = event.clipboardData.getData('text')
    if (!/[\n;,]/.test(text)) return
    event.preventDefault()
    read.mutate(`${words}\n${text}`)
  }

  return (
    <div className="relative">
      <Lines
        keep={form}
        aria-label="Names or e-mail addresses"
        aria-autocomplete="list"
        aria-controls={known.length ? 'known-people' : undefined}
        aria-activedescendant={known.length ? `known-${picked}` : undefined}
        rows={1}
        placeholder="marit@hollinbrook.example, or a name"
        value={words}
        onChange={(event) => {
          setWords(event.target.value)
          setPicked(0)
        }}
        onKeyDown={key}
        onPaste={paste}
      />
      <p className="text-note text-second">Enter takes what is typed.</p>
      <ErrorNote error={read.error ?? suggestions.error} />
      {known.length > 0 && (
        <ul
          id="known-people"
          role="listbox"
          aria-label="Known to the workspace"
          className="absolute top-[36px] z-10 w-full border border-second bg-surface"
        >
          {known.map((person, place) => (
            <li key={person.person_id} id={`known-${place}`} role="option" aria-selected={place === picked}>
              <button
                type="button"
                tabIndex={-1}
                onClick={() => choose(person)}
                className={`grid w-full grid-cols-[1fr_60px_1.4fr_110px] gap-2 px-3 py-1.5 text-left text-list ${place === picked ? 'bg-plum-tint' : ''}`}
              >
                <span className="font-medium">{person.name}</span>
                <span className="code">{person.company}</span>
                <span className="truncate text-second">{person.email}</span>
                <span className="text-second">
                  {person.state && person.state !== 'removed' ? 'in this project' : ''}
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}
