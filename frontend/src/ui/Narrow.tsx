import { useEffect, useState, type ReactNode } from 'react'

import { Button } from './Button'
import { BareChoice, Input } from './Input'

/** How long typing rests before the list follows, in milliseconds. */
const REST_MS = 300

interface RowProps {
  label: string
  /** How many lines are left, in words. */
  count: string
  /** Undefined where nothing is narrowed. */
  onAll?: (() => void) | undefined
  children: ReactNode
}

/** A list's filters in one row; they stand in the address, so that a view of it can be sent or kept. */
export function NarrowRow({ label, count, onAll, children }: RowProps) {
  return (
    <div
      role="search"
      aria-label={label}
      className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-1.5 text-list"
    >
      {children}
      <span role="status" className="ml-auto text-second">
        {count}
      </span>
      {onAll && (
        <Button small onClick={onAll}>
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

/** A field that narrows a list: follows the typing once it rests; and the address, when that changes. */
export function NarrowTyped({ label, value = '', onChange }: TypedProps) {
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

export function NarrowChoice({ label, value, choices, onChange }: ChooseProps) {
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
