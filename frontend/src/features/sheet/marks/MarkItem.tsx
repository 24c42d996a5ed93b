import { useEffect, useRef } from 'react'

import { Link } from '@tanstack/react-router'

import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Following } from '../../../ui/Following'
import { LinkedMarks } from '../../../ui/LinkedMarks'
import { By, Said } from '../../../ui/Said'
import { SayField } from '../../../ui/SayField'
import { When } from '../../../ui/Standing'
import { Touched } from './CarryForward'
import { KIND_WORDS, KindIcon } from './KindIcon'
import { STATES } from './markFilter'
import { MarkLinks } from './MarkLinks'
import { MarkOwn } from './MarkOwn'
import type { Acts } from './useActs'
import type { Mark, Marks, MarkState } from './useMarks'
import { useSheetPeople } from './useSheetPeople'

interface Props {
  mark: Mark
  service: Marks
  acts: Acts
  mayMark: boolean
  open: boolean
  marked: boolean
  fresh: boolean
  revisionId: string
  documentId: string
  /** The code of the revision on the screen. */
  revision: string
  inks: Record<string, string>
  onChoose: (id: string) => void
  onPen: (mark: Mark) => void
  onHole: (mark: Mark) => void
}

export function nameOf(mark: Mark): string {
  if (!mark.sound) return 'A mark that cannot be drawn'
  if (mark.kind === 'pin') return `Pin ${mark.pin_number ?? ''}`.trim()
  if (mark.kind === 'count') return `Count of ${mark.points.length}`
  return KIND_WORDS[mark.kind]
}

export function MarkItem({
  mark,
  service,
  acts,
  mayMark,
  open,
  marked,
  fresh,
  revisionId,
  documentId,
  revision,
  inks,
  ...on
}: Props) {
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
      className={`border-b border-line ${marked ? 'bg-plum-tint' : ''}`}
    >
      <button
        type="button"
        className="block w-full px-3 py-2 text-left"
        aria-expanded={open}
        onClick={() => on.onChoose(mark.id)}
      >
        <span className="flex items-center justify-between gap-2 text-[12.5px] text-second">
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
        <Words mark={mark} editing={editing} />
        {!editing && <Below mark={mark} open={open} />}
      </button>
      {open && (
        <div className="px-3 pb-3">
          {mark.first_place && (
            <p className="mb-1.5 text-[12.5px] text-second">
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
          )}
          {mark.replies.map((reply) => (
            <Said key={reply.id} said={reply} revision={revision} />
          ))}
          {mayMark && mark.inked_at && (
            <Thread mark={mark} service={service} revisionId={revisionId} documentId={documentId} />
          )}
          <MarkLinks mark={mark} service={service} mayMark={mayMark} revisionId={revisionId} />
          {mark.may_change && (
            <MarkOwn
              key={mark.id}
              mark={mark}
              acts={acts}
              fresh={fresh}
              revisionId={revisionId}
              inks={inks}
            />
          )}
          {mark.may_change && mark.kind === 'area' && (
            <Button small className="mt-2 mr-2" onClick={() => on.onHole(mark)}>
              Cut out a hole
            </Button>
          )}
          {mark.inked_at && <LinkedMarks kind="thread" target={mark.thread_id} />}
          <div className="mt-2 flex flex-wrap items-start gap-2">
            {mayMark && (
              <Button small onClick={() => on.onPen(mark)}>
                Make a pen of it
              </Button>
            )}
            {mark.inked_at && <Following kind="thread" target={mark.thread_id} words="this mark" />}
          </div>
          {editing && <Below mark={mark} open={open} />}
        </div>
      )}
    </article>
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
      <span className={`block text-[14px] ${editing ? 'truncate' : 'break-words'}`}>
        {text || (!measured && <em className="text-second">no text yet</em>)}
      </span>
    </>
  )
}

/** What else is known of a mark at a glance. */
function Below({ mark, open }: { mark: Mark; open: boolean }) {
  const { project } = useSeat()
  const replies = mark.replies.length
  return (
    <span className="flex flex-wrap gap-x-2 text-[12.5px] text-second">
      {mark.discipline && (
        <span className="border border-line px-1" title="Discipline">
          {project.disciplines[mark.discipline] ?? mark.discipline}
        </span>
      )}
      {mark.label && <span className="border border-line px-1">{mark.label}</span>}
      {mark.meant_for && <span>for {mark.meant_for.name}</span>}
      {mark.locked && <span>locked</span>}
      {!open && mark.state !== 'open' && <StateWord state={mark.state} />}
      {!open && mark.links.length > 0 && (
        <span>
          {mark.links.length} {mark.links.length === 1 ? 'link' : 'links'}
        </span>
      )}
      {!open && replies > 0 && (
        <span>
          {replies} {replies === 1 ? 'reply' : 'replies'}
        </span>
      )}
    </span>
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

interface ThreadProps {
  mark: Mark
  service: Marks
  revisionId: string
  documentId: string
}

function Thread({ mark, service, revisionId, documentId }: ThreadProps) {
  const people = useSheetPeople(revisionId)
  return (
    <>
      <SayField
        of={`mark ${mark.thread_id}`}
        label="Reply"
        button="Reply"
        people={people.data?.people ?? []}
        busy={service.reply.isPending}
        waiting={service.reply.isPaused}
        on={{ kind: 'document', target: documentId }}
        onSay={(said, sent) => service.reply.mutate({ mark, said }, { onSuccess: sent })}
      />
      <div role="group" aria-label="State of the mark" className="mt-2 flex">
        {(Object.keys(STATES) as MarkState[]).map((state) => (
          <button
            key={state}
            type="button"
            aria-pressed={mark.state === state}
            className="-ml-px border border-line bg-surface px-1.5 py-0.5 text-[12.5px] first:ml-0 aria-pressed:border-plum aria-pressed:bg-plum aria-pressed:text-on-plum"
            onClick={() => service.setState.mutate({ mark, state })}
          >
            {STATES[state]}
          </button>
        ))}
      </div>
    </>
  )
}
