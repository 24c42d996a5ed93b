import { useEffect, useRef, useState, type FormEvent } from 'react'

import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import type { Mark, useMarks } from './useMarks'

interface Props {
  marks: Mark[]
  acts: ReturnType<typeof useMarks>
  mayMark: boolean
  chosen: string | null
  onChoose: (id: string) => void
  onInk: () => void
  onRemove: (mark: Mark) => void
}

/** The marks beside the sheet: one's own pencil first, then ink with its threads. */
export function MarkList({ marks, acts, mayMark, chosen, onChoose, onInk, onRemove }: Props) {
  const pencil = marks.filter((mark) => !mark.inked_at)
  const ink = marks.filter((mark) => mark.inked_at)
  const error =
    acts.ink.error ??
    acts.reply.error ??
    acts.setState.error ??
    acts.change.error ??
    acts.remove.error ??
    acts.draw.error
  const item = (mark: Mark) => (
    <MarkItem
      key={mark.id}
      mark={mark}
      acts={acts}
      mayMark={mayMark}
      open={chosen === mark.id}
      onChoose={onChoose}
      onRemove={onRemove}
    />
  )
  return (
    <aside
      aria-label="Marks"
      className="flex h-full w-[340px] shrink-0 flex-col border-l border-line bg-surface"
    >
      <ErrorNote error={error} />
      <div className="min-h-0 flex-1 overflow-auto">
        {pencil.length > 0 && (
          <section aria-label="Pencil">
            <header className="flex items-center justify-between gap-2 border-b border-line bg-paper px-3 py-2">
              <div>
                <h2 className="text-[14px] font-semibold">Pencil</h2>
                <p className="text-[12px] text-second">Only you see these.</p>
              </div>
              <Button
                small
                look="act"
                onClick={onInk}
                disabled={acts.ink.isPending}
                title="Publish them to everybody in the project (p)"
              >
                Ink {pencil.length} {pencil.length === 1 ? 'mark' : 'marks'}
              </Button>
            </header>
            {pencil.map(item)}
          </section>
        )}
        <section aria-label="Ink">
          <header className="border-b border-line bg-paper px-3 py-2">
            <h2 className="text-[14px] font-semibold">
              Ink <span className="font-normal text-second">{ink.length || ''}</span>
            </h2>
          </header>
          {ink.length === 0 && (
            <p className="px-3 py-3 text-second">
              {mayMark
                ? 'Nobody has marked this revision. Take a pen below: a mark begins in pencil, and only you see it until you ink it.'
                : 'Nobody has marked this revision.'}
            </p>
          )}
          {ink.map(item)}
        </section>
      </div>
    </aside>
  )
}

interface ItemProps {
  mark: Mark
  acts: ReturnType<typeof useMarks>
  mayMark: boolean
  open: boolean
  onChoose: (id: string) => void
  onRemove: (mark: Mark) => void
}

function MarkItem({ mark, acts, mayMark, open, onChoose, onRemove }: ItemProps) {
  const place = useRef<HTMLElement>(null)
  useEffect(() => {
    if (open) place.current?.scrollIntoView({ block: 'nearest' })
  }, [open])
  const name = mark.kind === 'pin' ? `Pin ${mark.pin_number ?? ''}` : 'Cloud'
  return (
    <article ref={place} className={`border-b border-line ${open ? 'bg-plum-tint' : ''}`}>
      <button
        type="button"
        className="block w-full px-3 py-2 text-left"
        aria-expanded={open}
        onClick={() => onChoose(mark.id)}
      >
        <span className="flex items-baseline justify-between gap-2 text-[12.5px] text-second">
          <span>
            <span className="font-semibold text-ink">{name}</span> · {mark.author.name}{' '}
            <span className="code">{mark.author.company}</span>
          </span>
          <When at={mark.inked_at ?? mark.drawn_at} />
        </span>
        <span className="block text-[14px]">{mark.text || <em className="text-second">no text yet</em>}</span>
        {!open && (mark.replies.length > 0 || mark.state !== 'open') && (
          <span className="text-[12.5px] text-second">
            {mark.state !== 'open' && <StateWord state={mark.state} />}{' '}
            {mark.replies.length > 0 &&
              `${mark.replies.length} ${mark.replies.length === 1 ? 'reply' : 'replies'}`}
          </span>
        )}
      </button>
      {open && (
        <div className="px-3 pb-3">
          {mark.replies.map((reply) => (
            <div key={reply.id} className="mb-1.5 border-l-2 border-line pl-2">
              <p className="text-[12.5px] text-second">
                <span className="font-semibold text-ink">{reply.author.name}</span>{' '}
                <span className="code">{reply.author.company}</span> · <When at={reply.at} time />
              </p>
              <p className="text-[14px]">{reply.text}</p>
            </div>
          ))}
          {mayMark && mark.inked_at && <Thread mark={mark} acts={acts} />}
          {mark.may_change && <Own mark={mark} acts={acts} onRemove={onRemove} />}
        </div>
      )}
    </article>
  )
}

const STATES = { open: 'Open', agreed: 'Agreed', declined: 'Declined', done: 'Done' } as const
type State = keyof typeof STATES

function StateWord({ state }: { state: string }) {
  const look =
    { open: 'text-second', agreed: 'text-spruce', declined: 'text-brick', done: 'text-slate' }[state] ?? ''
  return <span className={`font-semibold ${look}`}>{STATES[state as State] ?? state}</span>
}

function Thread({ mark, acts }: { mark: Mark; acts: ReturnType<typeof useMarks> }) {
  const [text, setText] = useState('')
  function submit(event: FormEvent) {
    event.preventDefault()
    acts.reply.mutate({ mark, text }, { onSuccess: () => setText('') })
  }
  return (
    <>
      <form onSubmit={submit} className="flex gap-1.5">
        <input
          aria-label="Reply"
          placeholder="Reply"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="h-7 min-w-0 flex-1 rounded-[3px] border border-line bg-surface px-2 placeholder:text-second"
        />
        <Button small type="submit" disabled={!text.trim() || acts.reply.isPending} className="h-7">
          Reply
        </Button>
      </form>
      <div role="group" aria-label="State of the mark" className="mt-2 flex">
        {(Object.keys(STATES) as State[]).map((state) => (
          <button
            key={state}
            type="button"
            aria-pressed={mark.state === state}
            className="-ml-px border border-line bg-surface px-2 py-0.5 text-[12.5px] first:ml-0 aria-pressed:border-plum aria-pressed:bg-plum aria-pressed:text-on-plum"
            onClick={() => acts.setState.mutate({ mark, state })}
          >
            {STATES[state]}
          </button>
        ))}
      </div>
    </>
  )
}

/** Rewording and taking away one's own, until somebody has answered. */
function Own({
  mark,
  acts,
  onRemove,
}: {
  mark: Mark
  acts: ReturnType<typeof useMarks>
  onRemove: (mark: Mark) => void
}) {
  const [text, setText] = useState(mark.text)
  const changed = text.trim() !== mark.text
  return (
    <form
      className="mt-2 flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault()
        if (changed) acts.change.mutate({ mark, text })
      }}
    >
      <textarea
        aria-label="Text of the mark"
        rows={2}
        value={text}
        placeholder="What is it about?"
        // A mark just drawn wants its text at once.
        // eslint-disable-next-line jsx-a11y/no-autofocus
        autoFocus={!mark.text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => changed && acts.change.mutate({ mark, text })}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && !event.shiftKey) {
            event.preventDefault()
            event.currentTarget.blur()
          }
        }}
        className="rounded-[3px] border border-line bg-surface px-2 py-1 placeholder:text-second"
      />
      <div className="flex justify-between">
        <Button small type="submit" disabled={!changed}>
          {changed ? 'Keep the text' : 'Text kept'}
        </Button>
        <Button small look="stop" onClick={() => onRemove(mark)}>
          Take away
        </Button>
      </div>
    </form>
  )
}
