import { Paperclip } from 'lucide-react'
import { useId, useRef, useState, type KeyboardEvent } from 'react'

import { namesLike, typingName, withName } from '../domain/mention'
import { AttachedDraft } from './Attachments'
import { Button } from './Button'
import { IconButton } from './IconButton'
import { Lines } from './Input'
import { useAttaching, type On } from './useAttaching'
import { useField, useKept, type Kept } from './useKept'

const MOST_NAMES = 6
const MOST_ROWS = 6
const LETTERS_A_ROW = 40

const rowsOf = (text: string) =>
  Math.min(
    MOST_ROWS,
    text.split('\n').reduce((rows, line) => rows + Math.max(1, Math.ceil(line.length / LETTERS_A_ROW)), 0),
  )

interface Person {
  id: string
  name: string
  company: string
}

interface Props {
  /** What is spoken of, by which what is typed is kept. */
  of: string
  label: string
  button: string
  /** Those who can be named. */
  people: readonly Person[]
  busy: boolean
  /** It is to be sent, and the line is broken: it goes when that is back. */
  waiting?: boolean
  /** What files are added to; null where none are. */
  on: On | null
  /** To be sent with `sendOnce`: until it is through what was typed stays. */
  onSay: (said: Saying) => void
}

/** Words, and the ids of files that go with them. */
export interface Saying {
  text: string
  attachments: string[]
  /** What it is done once by. */
  form: Kept
}

/** A field to say something in; an @ offers the names of those who see it. */
export function SayField({ of, label, button, people, busy, waiting = false, on, onSay }: Props) {
  const form = useKept('say', of)
  const [text, setText] = useField(form, 'text', '')
  const field = useRef<HTMLTextAreaElement>(null)
  const [caret, setCaret] = useState(0)
  const [at, setAt] = useState(0)
  const [shut, setShut] = useState(false)
  const list = useId()
  const typing = shut ? null : typingName(text, caret)
  const names = typing ? namesLike(people, typing.letters).slice(0, MOST_NAMES) : []
  const choose = (person: Person | undefined) => {
    if (!typing || !person) return
    const put = withName(text, typing, person.name)
    setText(put.text)
    setCaret(put.caret)
    // The caret follows when the text is drawn.
    requestAnimationFrame(() => {
      field.current?.focus()
      field.current?.setSelectionRange(put.caret, put.caret)
    })
  }
  const attaching = useAttaching(form, on)
  const chooser = useRef<HTMLInputElement>(null)
  const ready = !busy && attaching.settled && (text.trim() !== '' || attaching.there.length > 0)
  const say = () => {
    if (!ready) return
    onSay({ text, attachments: attaching.there.map((each) => each.id), form })
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const open = names.length > 0
    if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) say()
    else if (open && event.key === 'ArrowDown') setAt(Math.min(at + 1, names.length - 1))
    else if (open && event.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
    else if (open && (event.key === 'Enter' || event.key === 'Tab')) choose(names[at])
    else if (open && event.key === 'Escape') setShut(true)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        say()
      }}
    >
      <div
        className="flex items-end gap-1.5"
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault()
          attaching.add(event.dataTransfer.files)
        }}
      >
        <Lines
          keep={form}
          ref={field}
          rows={rowsOf(text)}
          aria-label={label}
          aria-controls={list}
          aria-activedescendant={names[at] ? `${list}-${at}` : undefined}
          placeholder={`${label}; @ names somebody`}
          value={text}
          onChange={(event) => {
            setText(event.target.value)
            setCaret(event.target.selectionStart)
            setAt(0)
            setShut(false)
          }}
          onSelect={(event) => setCaret(event.currentTarget.selectionStart)}
          onKeyDown={onKeyDown}
          onPaste={(event) => {
            if (!event.clipboardData.files.length) return
            event.preventDefault()
            attaching.add(event.clipboardData.files)
          }}
          className="min-h-7 min-w-0 flex-1 resize-none py-0.5"
        />
        {on && (
          <IconButton
            label="Attach files"
            icon={<Paperclip size={16} />}
            onClick={() => chooser.current?.click()}
          />
        )}
        <input
          ref={chooser}
          type="file"
          multiple
          hidden
          aria-label="Files to attach"
          onChange={(event) => {
            attaching.add(event.target.files ?? [])
            event.target.value = ''
          }}
        />
        <Button
          small
          type="submit"
          title={attaching.settled ? 'Ctrl Enter' : 'When the files have come'}
          why={!ready && 'Write something first.'}
          className="h-7"
        >
          {button}
        </Button>
      </div>
      <AttachedDraft attaching={attaching} />
      {waiting && (
        <p role="status" className="mt-1 text-note text-ochre">
          The line is broken. It is sent when the line is back.
        </p>
      )}
      <ul
        role="listbox"
        id={list}
        aria-label="Names"
        className={names.length ? 'mt-1 border border-line bg-surface' : ''}
      >
        {names.map((person, place) => (
          // The keys are those of the field above.
          // eslint-disable-next-line jsx-a11y/click-events-have-key-events
          <li
            key={person.id}
            id={`${list}-${place}`}
            role="option"
            tabIndex={-1}
            aria-selected={place === at}
            className="cursor-pointer px-2 py-1 leading-snug hover:bg-paper aria-selected:bg-plum-tint"
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => choose(person)}
          >
            {person.name} <span className="code text-second">{person.company}</span>
          </li>
        ))}
      </ul>
    </form>
  )
}
