import { useRouter } from '@tanstack/react-router'
import { PencilLine } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useCallback, useEffect, useRef, useState, useSyncExternalStore } from 'react'

import { useSeat } from '../../api/me'
import { dayOf, instantText } from '../../domain/dates'
import { FORMS } from '../../domain/forms'
import { Button } from '../../ui/Button'
import { draftsOf, keepDraft, onDrafts, onLeft, type Left } from '../../ui/drafts'
import { ownerOf } from '../../ui/useKept'

const nameOf = ({ draft }: Left) => (draft.words ? `${FORMS[draft.form]}: ${draft.words}` : FORMS[draft.form])

const MOST_LETTERS = 80

/** The first words that were typed, wherever they are in the form. */
function firstWords(value: unknown): string {
  if (typeof value === 'string') return value.trim()
  if (typeof value !== 'object' || value === null) return ''
  return Object.values(value).map(firstWords).find(Boolean) ?? ''
}

function wordsOf({ draft }: Left): string {
  const words = firstWords(draft.fields)
  return words.length > MOST_LETTERS ? `${words.slice(0, MOST_LETTERS)} …` : words
}

function useDrafts(owner: string): Left[] {
  const seen = useRef<Left[]>([])
  const read = useCallback(() => {
    const now = draftsOf(owner)
    const same =
      now.length === seen.current.length && now.every((each, at) => each.draft === seen.current[at]?.draft)
    if (!same) seen.current = now
    return seen.current
  }, [owner])
  return useSyncExternalStore(onDrafts, read)
}

/** What I have typed somewhere and not sent: how much, where, and the way back to it. */
export function Unsent() {
  const { me } = useSeat()
  const drafts = useDrafts(ownerOf(me))
  const [open, setOpen] = useState(false)
  const [gone, setGone] = useState<Left | null>(null)
  if (!drafts.length && !gone) return null
  const words = drafts.length === 1 ? '1 draft' : `${drafts.length} drafts`
  return (
    <Popover.Root
      open={open}
      onOpenChange={(next) => {
        setOpen(next)
        if (!next) setGone(null)
      }}
    >
      <Popover.Trigger
        aria-label={`${words}, typed and not sent`}
        title="Typed and not sent"
        className="flex items-center gap-1 text-ochre hover:text-plum"
      >
        <PencilLine size={16} aria-hidden />
        <span className="max-xl:sr-only">{words}</span>
        <span aria-hidden className="xl:hidden">
          {drafts.length}
        </span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={16}
          collisionPadding={12}
          aria-label="Typed and not sent"
          className="z-50 flex max-h-[70vh] w-[440px] max-w-[calc(100vw-24px)] flex-col border border-second bg-surface"
        >
          <div className="border-b border-line px-4 py-2">
            <h2 className="font-semibold">Typed and not sent</h2>
            <p className="text-note text-second">Kept in this browser for 30 days. Only you see it.</p>
          </div>
          {gone && (
            <Discarded
              left={gone}
              onBack={() => {
                keepDraft(gone.key, gone.draft)
                setGone(null)
              }}
            />
          )}
          <ul className="min-h-0 overflow-auto">
            {drafts.map((each) => (
              <Line key={each.key} left={each} onGo={() => setOpen(false)} onDiscard={() => setGone(each)} />
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

interface LineProps {
  left: Left
  onGo: () => void
  onDiscard: () => void
}

function Line({ left, onGo, onDiscard }: LineProps) {
  const { project } = useSeat()
  const { history } = useRouter()
  const at = new Date(left.draft.at).toISOString()
  return (
    <li className="flex items-center gap-2 border-b border-line/60 px-4 py-2 last:border-0">
      <span className="min-w-0 flex-1">
        <span className="block break-words">{nameOf(left)}</span>
        <span className="block truncate text-note">{wordsOf(left)}</span>
        <span className="block text-note text-second">
          {instantText(at, project.time_zone, dayOf(new Date().toISOString(), project.time_zone), true)}
        </span>
      </span>
      <Button
        small
        onClick={() => {
          onGo()
          history.push(left.draft.address)
        }}
      >
        Back to it
      </Button>
      <Button
        small
        onClick={() => {
          keepDraft(left.key, null)
          onDiscard()
        }}
      >
        Discard
      </Button>
    </li>
  )
}

function Discarded({ left, onBack }: { left: Left; onBack: () => void }) {
  return (
    <p
      role="status"
      className="flex items-center gap-3 border-b border-line bg-slate-tint px-4 py-1.5 text-slate"
    >
      <span className="min-w-0 flex-1 break-words">Discarded: {nameOf(left)}.</span>
      <Button small onClick={onBack}>
        Undo
      </Button>
    </p>
  )
}

const SHOWN_MS = 12_000

/** Says that what was left unsent is kept, for a moment; the line goes on counting it. */
export function LeftNote() {
  const { me } = useSeat()
  const owner = ownerOf(me)
  const { history } = useRouter()
  const [left, setLeft] = useState<Left | null>(null)
  useEffect(
    () =>
      onLeft((next) => {
        if (!next.key.includes(` ${owner} `)) return
        setLeft(next)
      }),
    [owner],
  )
  useEffect(() => {
    if (!left) return
    const wait = setTimeout(() => setLeft(null), SHOWN_MS)
    return () => clearTimeout(wait)
  }, [left])
  // Sent or taken up again meanwhile.
  useEffect(
    () =>
      onDrafts(() =>
        setLeft((now) => (now && !draftsOf(owner).some((each) => each.key === now.key) ? null : now)),
      ),
    [owner],
  )
  if (!left) return null
  return (
    <div
      role="status"
      className="fixed bottom-4 left-4 z-40 flex max-w-[calc(100vw-32px)] flex-wrap items-center gap-2 border border-ochre bg-surface px-3 py-1.5 text-list"
    >
      <span className="min-w-0 break-words">
        Not sent, kept as a draft: <strong className="font-semibold">{nameOf(left)}</strong>
      </span>
      <Button small onClick={() => history.push(left.draft.address)}>
        Back to it
      </Button>
      <Button small onClick={() => keepDraft(left.key, null)}>
        Discard
      </Button>
      <Button small onClick={() => setLeft(null)}>
        Good
      </Button>
    </div>
  )
}
