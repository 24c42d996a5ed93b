import { X } from 'lucide-react'
import { useId, useState, type KeyboardEvent } from 'react'

import { Input } from './Input'

export interface Choosable {
  key: string
  words: string
  /** What tells it from others of the name. */
  note?: string
}

interface Props {
  label: string
  choices: readonly Choosable[]
  chosen: readonly string[]
  onChange: (chosen: string[]) => void
  placeholder?: string
}

const MOST_SHOWN = 8

/** What is typed, what of the choices it finds, and the keys that choose. */
function useChoosing({ choices, chosen, onChange }: Pick<Props, 'choices' | 'chosen' | 'onChange'>) {
  const [words, setWords] = useState('')
  const [open, setOpen] = useState(false)
  const [at, setAt] = useState(0)
  const found = matching(choices, words, new Set(chosen))
  const place = Math.min(at, Math.max(0, found.length - 1))
  const step = (by: number) => setAt((place + by + found.length) % Math.max(1, found.length))

  function type(next: string) {
    setWords(next)
    setOpen(true)
    setAt(0)
  }

  function choose(each: Choosable | undefined) {
    if (!each) return
    onChange([...chosen, each.key])
    setWords('')
    setAt(0)
  }

  function onKey(event: KeyboardEvent<HTMLInputElement>) {
    const takesLast = event.key === 'Backspace' && !words && chosen.length > 0
    if (takesLast) onChange(chosen.slice(0, -1))
    const acts: Record<string, () => void> = open
      ? {
          ArrowDown: () => step(1),
          ArrowUp: () => step(-1),
          Enter: () => choose(found[place]),
          Escape: () => setOpen(false),
        }
      : { ArrowDown: () => setOpen(true) }
    const act = acts[event.key]
    if (!act) return
    event.preventDefault()
    event.stopPropagation()
    act()
  }

  return { words, type, open, setOpen, found, place, choose, onKey }
}

/** Several out of many by typing a part of the name: arrows and Enter choose, Backspace takes the last one away. */
export function ChooseMany({ label, choices, chosen, onChange, placeholder = 'Type a name' }: Props) {
  const id = useId()
  const choosing = useChoosing({ choices, chosen, onChange })
  const { words, type, open, setOpen, found, place, choose, onKey } = choosing
  const byKey = new Map(choices.map((each) => [each.key, each]))
  const listed = open && found.length > 0
  return (
    <div className="relative">
      <label htmlFor={id} className="mb-0.5 block text-note font-medium text-second">
        {label}
      </label>
      <div className="flex flex-wrap items-center gap-1">
        {chosen.map((key) => (
          <Chosen
            key={key}
            words={byKey.get(key)?.words ?? (choices.length ? 'somebody not here any more' : '…')}
            onTake={() => onChange(chosen.filter((each) => each !== key))}
          />
        ))}
        <Input
          id={id}
          keep="passing"
          small
          className="min-w-[150px] flex-1"
          role="combobox"
          aria-expanded={listed}
          aria-controls={`${id}-list`}
          aria-activedescendant={listed ? `${id}-${place}` : undefined}
          autoComplete="off"
          value={words}
          placeholder={placeholder}
          onFocus={() => setOpen(true)}
          onBlur={() => setOpen(false)}
          onChange={(event) => type(event.target.value)}
          onKeyDown={onKey}
        />
      </div>
      <Found id={id} label={label} found={listed ? found : []} place={place} onChoose={choose} />
      {/* Over what lies below, like the list: what one presses next must not move away when this goes. */}
      {open && words && choices.length > 0 && !found.length && (
        <p
          role="status"
          className="absolute z-20 mt-0.5 border border-line bg-surface px-2 py-1 text-note text-second"
        >
          Nobody here is called “{words}”.
        </p>
      )}
    </div>
  )
}

interface FoundProps {
  id: string
  label: string
  found: readonly Choosable[]
  place: number
  onChoose: (each: Choosable) => void
}

function Found({ id, label, found, place, onChoose }: FoundProps) {
  return (
    <ul
      id={`${id}-list`}
      role="listbox"
      aria-label={label}
      hidden={!found.length}
      className="absolute z-20 mt-0.5 max-h-64 w-full min-w-[220px] overflow-auto border border-line bg-surface text-list"
    >
      {found.map((each, index) => (
        <li
          key={each.key}
          id={`${id}-${index}`}
          role="option"
          aria-selected={index === place}
          className={`flex min-h-7 cursor-pointer items-center gap-2 px-2 ${index === place ? 'bg-plum-tint' : ''}`}
          // Before the field loses the focus, which would shut the list.
          onPointerDown={(event) => {
            event.preventDefault()
            onChoose(each)
          }}
        >
          <span className="flex-1">{each.words}</span>
          <span className="text-note text-second">{each.note}</span>
        </li>
      ))}
    </ul>
  )
}

function Chosen({ words, onTake }: { words: string; onTake: () => void }) {
  return (
    <span className="inline-flex h-6 items-center gap-1 border border-line bg-plum-tint pl-2 text-list">
      {words}
      <button
        type="button"
        aria-label={`Without ${words}`}
        className="grid size-6 place-items-center"
        onClick={onTake}
      >
        <X size={12} aria-hidden />
      </button>
    </span>
  )
}

/** Those whose words or note have each typed word in them, in their order. */
export function matching(choices: readonly Choosable[], words: string, without: ReadonlySet<string>) {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  return choices
    .filter((each) => !without.has(each.key))
    .filter((each) => wanted.every((word) => `${each.words} ${each.note ?? ''}`.toLowerCase().includes(word)))
    .slice(0, MOST_SHOWN)
}
