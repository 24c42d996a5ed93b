import { useNavigate } from '@tanstack/react-router'
import { useEffect, useState } from 'react'

import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { BareChoice, Input } from '../../ui/Input'
import { isNarrowed, type LogSearch } from './logSearch'

const WHOSE = [
  ['', 'of everybody'],
  ['with_me', 'with me'],
  ['my_company', 'with my company'],
  ['started', 'started by me'],
]
const STATES = [
  ['', 'in any state'],
  ['running', 'running'],
  ['closed', 'closed'],
  ['cancelled', 'cancelled'],
  ['recalled', 'recalled'],
]
/** How long typing rests before the list follows, in milliseconds. */
const REST_MS = 300

interface Props {
  search: LogSearch
  routes: readonly string[]
  total: number
}

/** The log's filters in one row; they stand in the address, so that a view of it can be sent or kept. */
export function LogFilters({ search, routes, total }: Props) {
  const navigate = useNavigate()
  const set = (part: LogSearch) =>
    void navigate({ to: '.', search: (old: object) => ({ ...old, ...part }), replace: true })
  return (
    <div
      role="search"
      aria-label="Narrow the reviews"
      className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-1.5 text-list"
    >
      <Typed label="Number or name" value={search.words} onChange={(words) => set({ words })} />
      <Typed label="Document" value={search.document} onChange={(document) => set({ document })} />
      <Choose
        label="Whose"
        value={search.whose}
        choices={WHOSE}
        onChange={(whose) => set({ whose: whose as LogSearch['whose'] })}
      />
      <Choose
        label="State"
        value={search.state}
        choices={STATES}
        onChange={(state) => set({ state: state as LogSearch['state'] })}
      />
      <Choose
        label="Route"
        value={search.route}
        choices={[['', 'on any route'], ...routes.map((each) => [each, each])]}
        onChange={(route) => set({ route })}
      />
      <Checkbox
        label="late"
        checked={search.late ?? false}
        onChange={(late) => set({ late: late || undefined })}
      />
      <span role="status" className="ml-auto text-second">
        {counted(total, 'review')}
      </span>
      {isNarrowed(search) && (
        <Button
          small
          onClick={() =>
            set({
              words: undefined,
              whose: undefined,
              state: undefined,
              late: undefined,
              route: undefined,
              document: undefined,
            })
          }
        >
          Show all
        </Button>
      )}
    </div>
  )
}

interface TypedProps {
  label: string
  value: string | undefined
  onChange: (value: string | undefined) => void
}

/** Follows the typing once it rests; and the address, when that changes. */
function Typed({ label, value = '', onChange }: TypedProps) {
  const [text, setText] = useState(value)
  const [seen, setSeen] = useState(value)
  if (seen !== value) {
    setSeen(value)
    setText(value)
  }
  useEffect(() => {
    if (text === value) return
    const timer = setTimeout(() => onChange(text || undefined), REST_MS)
    return () => clearTimeout(timer)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only what is typed sets it off
  }, [text])
  return (
    <Input
      keep="passing"
      small
      aria-label={label}
      placeholder={label}
      className="w-[140px]"
      value={text}
      onChange={(event) => setText(event.target.value)}
    />
  )
}

interface ChooseProps {
  label: string
  value: string | undefined
  choices: readonly (readonly string[])[]
  onChange: (value: string | undefined) => void
}

function Choose({ label, value, choices, onChange }: ChooseProps) {
  return (
    <BareChoice
      aria-label={label}
      className="h-7 max-w-[170px] border border-line bg-surface px-1 text-list"
      value={value ?? ''}
      onChange={(event) => onChange(event.target.value || undefined)}
    >
      {choices.map(([code = '', words = '']) => (
        <option key={code} value={code}>
          {words}
        </option>
      ))}
    </BareChoice>
  )
}
