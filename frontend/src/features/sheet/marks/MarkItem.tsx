import { memo, useEffect, useRef, useState } from 'react'

import { Link } from '@tanstack/react-router'

import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { By, Said } from '../../../ui/Said'
import { SayField } from '../../../ui/SayField'
import { When } from '../../../ui/Standing'
import { useSteady } from '../../../ui/useSteady'
import { useSheet } from '../sheetContext'
import { Touched } from './CarryForward'
import { KindIcon, kindWords } from './KindIcon'
import { STATES } from './markFilter'
import { MarkLinks } from './MarkLinks'
import { MarkOwn } from './MarkOwn'
import { MarkTools } from './MarkTools'
import { OpenToMore } from './OpenToMore'
import type { Mark, MarkState } from './useMarks'
import { readersWords } from './useReaders'
import { isWaiting } from '../../../api/waitingMarks'
import { useSheetPeople } from './useSheetPeople'

export function nameOf(mark: Mark): string {
  if (!mark.sound) return 'A mark that cannot be drawn'
  if (mark.kind === 'pin') return `Pin ${mark.pin_number ?? ''}`.trim()
  if (mark.kind === 'count') return `Count of ${mark.points.length}`
  return kindWords(mark.kind, mark.look.symbol ?? '')
}

/** Marks in their order. */
export function MarkItems({ marks }: { marks: readonly Mark[] }) {
  const sheet = useSheet()
  const chosen = new Set(sheet.hand.chosen)
  const choose = useSteady(sheet.choose)
  return marks.map((mark) => (
    <MarkItem
      key={mark.id}
      mark={mark}
      marked={chosen.has(mark.id)}
      open={chosen.has(mark.id) && chosen.size === 1}
      waits={sheet.marks.service.held && isWaiting(mark)}
      inks={sheet.inks}
      choose={choose}
      peek={sheet.peek}
    />
  ))
}

interface ItemProps {
  mark: Mark
  marked: boolean
  open: boolean
  /** It is drawn, and the line is down. */
  waits: boolean
  inks: Readonly<Record<string, string>>
  choose: (id: string) => void
  peek: (id: string) => void
}

/** Drawn anew only when it is otherwise, and not with all that happens on the sheet: what is open sees to itself. */
const MarkItem = memo(function MarkItem({ mark, marked, open, waits, inks, choose, peek }: ItemProps) {
  const place = useRef<HTMLElement>(null)
  useEffect(() => {
    if (open) place.current?.scrollIntoView({ block: 'nearest' })
  }, [open])
  // What is kept while the pointer is going down on a button must not move that button away from under it.
  const editing = open && mark.may_change
  return (
    <article
      ref={place}
      aria-current={marked}
      data-of={mark.id}
      className={`border-b border-line ${open ? '' : 'unseen-unlaid'} ${marked ? 'bg-plum-tint' : ''}`}
    >
      <button
        type="button"
        className="block w-full px-3 py-2 text-left"
        aria-expanded={open}
        onClick={() => choose(mark.id)}
        onPointerEnter={() => peek(mark.id)}
        onPointerLeave={() => peek('')}
        onFocus={() => peek(mark.id)}
        onBlur={() => peek('')}
      >
        <ItemHead mark={mark} inks={inks} />
        <Words mark={mark} editing={editing} />
        {waits && (
          <span role="status" className="block text-note text-ochre">
            waits for the line, and goes when it is back
          </span>
        )}
        {!open && <LastAnswer mark={mark} />}
        {!editing && <Below mark={mark} open={open} />}
      </button>
      {open && <Opened mark={mark} />}
    </article>
  )
})

function ItemHead({ mark, inks }: Pick<ItemProps, 'mark' | 'inks'>) {
  return (
    <span className="flex items-center justify-between gap-2 text-note text-second">
      <span className="flex min-w-0 items-center gap-1.5">
        <KindIcon
          kind={mark.kind}
          symbol={mark.look.symbol ?? ''}
          colour={mark.inked_at ? inks[mark.look.colour ?? 'red'] : undefined}
        />
        <span className="truncate">
          <span className="font-semibold text-ink">{nameOf(mark)}</span> · <By author={mark.author} />
        </span>
      </span>
      <When at={mark.inked_at ?? mark.drawn_at} />
    </span>
  )
}

/** What was said last, in one line. */
function LastAnswer({ mark }: { mark: Mark }) {
  const last = mark.replies.at(-1)
  if (!last) return null
  return (
    <span className="mt-0.5 block truncate border-l-2 border-line pl-2 text-note text-second">
      {last.author.name}: {last.text}
    </span>
  )
}

/** What is said about the mark, and what may be done with it. */
function Opened({ mark }: { mark: Mark }) {
  const { sheet, marks, acts, hand, inks, maySay } = useSheet()
  const revisionId = sheet.revision_id
  return (
    <div className="px-3 pb-3">
      <CarriedFrom mark={mark} />
      {mark.session && (
        <p className="mb-1.5 text-note text-second">
          made in session <span className="code">{mark.session}</span>
        </p>
      )}
      <Replies mark={mark} revision={sheet.revision} />
      {maySay && mark.inked_at && <Thread mark={mark} />}
      <MarkLinks
        mark={mark}
        service={marks.service}
        mayMark={sheet.may_mark && !sheet.let_in}
        revisionId={revisionId}
      />
      {mark.may_change && (
        <MarkOwn
          key={mark.id}
          mark={mark}
          acts={acts}
          fresh={hand.fresh === mark.id}
          revisionId={revisionId}
          inks={inks}
        />
      )}
      <MarkTools mark={mark} />
      {mark.may_open && <OpenToMore key={`open ${mark.id}`} mark={mark} />}
      {!mark.inked_at && !isWaiting(mark) && (
        <Button small className="mt-2" busy={marks.service.ink.isPending} onClick={() => marks.ink([mark])}>
          Ink this one
        </Button>
      )}
      {mark.may_change && <Below mark={mark} open />}
    </div>
  )
}

const ENDS = 3

/** A long thread shows how it began and how it stands; what lies between is opened. */
function Replies({ mark, revision }: { mark: Mark; revision: string }) {
  const [open, setOpen] = useState(false)
  const { replies } = mark
  const hidden = replies.length - 2 * ENDS
  const folded = !open && hidden > 1
  const first = folded ? replies.slice(0, ENDS) : replies
  return (
    <>
      {first.map((reply) => (
        <Said key={reply.id} said={reply} revision={revision} />
      ))}
      {folded && (
        <>
          <button
            type="button"
            className="mb-1.5 min-h-6 w-full border border-dashed border-line text-note text-second hover:text-ink"
            onClick={() => setOpen(true)}
          >
            {hidden} between
          </button>
          {replies.slice(-ENDS).map((reply) => (
            <Said key={reply.id} said={reply} revision={revision} />
          ))}
        </>
      )}
    </>
  )
}

function CarriedFrom({ mark }: { mark: Mark }) {
  if (!mark.first_place) return null
  return (
    <p className="mb-1.5 text-note text-second">
      carried from{' '}
      <Link
        to="/sheet/$revisionId"
        params={{ revisionId: mark.first_place.revision_id }}
        search={{ mark: mark.first_place.mark }}
        className="code text-plum underline"
      >
        {mark.first_place.revision}
      </Link>
      {mark.touched !== null && (
        <>
          , <Touched touched={mark.touched} />
        </>
      )}
    </p>
  )
}

/** What it measures, and what its author wrote. */
function Words({ mark: { measured, text }, editing }: { mark: Mark; editing: boolean }) {
  return (
    <>
      {measured && (
        <span className="block">
          <span className="code font-bold">{measured.words}</span>
          <span className="text-second">
            {measured.on_paper ? ' of paper' : ''}
            {measured.more ? ` · ${measured.more}` : ''}
          </span>
        </span>
      )}
      <span className={`block text-body ${editing ? 'truncate' : 'break-words'}`}>
        {text || (!measured && <em className="text-second">no text yet</em>)}
      </span>
    </>
  )
}

/** What else is known of a mark at a glance. */
function Below({ mark, open }: { mark: Mark; open: boolean }) {
  const { project } = useSeat()
  return (
    <span className="flex flex-wrap gap-x-2 text-note text-second">
      {mark.discipline && (
        <span className="border border-line px-1" title="Discipline">
          {project.disciplines[mark.discipline] ?? mark.discipline}
        </span>
      )}
      {mark.label && <span className="border border-line px-1">{mark.label}</span>}
      {mark.readers.length > 0 && (
        <span className="border border-ochre px-1 text-ochre" title="Who reads it">
          {mark.readers.map(readersWords).join(', ')}
        </span>
      )}
      {mark.meant_for && <span>for {mark.meant_for.name}</span>}
      {mark.locked && <span>locked</span>}
      {!open && <Inside mark={mark} />}
    </span>
  )
}

/** What opening the mark would show. */
function Inside({ mark }: { mark: Mark }) {
  const counted = [
    [mark.links.length, 'link', 'links'],
    [mark.replies.length, 'reply', 'replies'],
  ] as const
  return (
    <>
      {mark.state !== 'open' && <StateWord state={mark.state} />}
      {counted.map(
        ([count, one, more]) =>
          count > 0 && (
            <span key={one}>
              {count} {count === 1 ? one : more}
            </span>
          ),
      )}
    </>
  )
}

function StateWord({ state }: { state: string }) {
  const look =
    {
      open: 'text-second',
      agreed: 'text-spruce',
      declined: 'text-brick',
      done: 'text-slate',
      dropped: 'text-second',
    }[state] ?? ''
  return <span className={`font-semibold ${look}`}>{STATES[state as MarkState] ?? state}</span>
}

function Thread({ mark }: { mark: Mark }) {
  const { sheet, marks } = useSheet()
  const { reply } = marks.service
  const people = useSheetPeople(sheet.revision_id)
  return (
    <>
      <SayField
        of={`mark ${mark.thread_id}`}
        label="Reply"
        button="Reply"
        people={people.data?.people ?? []}
        busy={reply.isPending}
        waiting={reply.isPaused || (reply.isPending && reply.failureCount > 0)}
        on={mark.readers.length ? null : { kind: 'document', target: sheet.document_id }}
        onSay={(said) => reply.mutate({ mark, said })}
      />
      <States mark={mark} />
    </>
  )
}

/** Its state; one that was set while the line is down is shown, and said to wait. */
function States({ mark }: { mark: Mark }) {
  const { setState } = useSheet().marks.service
  const asked = setState.isPending ? setState.variables : undefined
  const wanted = asked?.mark.id === mark.id ? asked.state : undefined
  return (
    <>
      <div role="group" aria-label="State of the mark" className="mt-2 flex">
        {(Object.keys(STATES) as MarkState[]).map((state) => (
          <button
            key={state}
            type="button"
            aria-pressed={(wanted ?? mark.state) === state}
            className="-ml-px border border-line bg-surface px-1.5 py-0.5 text-note first:ml-0 aria-pressed:border-plum aria-pressed:bg-plum aria-pressed:text-on-plum"
            onClick={() => setState.mutate({ mark, state })}
          >
            {STATES[state]}
          </button>
        ))}
      </div>
      {wanted && (setState.isPaused || setState.failureCount > 0) && (
        <p role="status" className="mt-1 text-note text-ochre">
          The line is broken. “{STATES[wanted]}” waits, and is set when the line is back.
        </p>
      )}
    </>
  )
}
