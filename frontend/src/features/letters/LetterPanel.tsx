import { Link, useSearch } from '@tanstack/react-router'
import { Lock } from 'lucide-react'
import { useEffect } from 'react'

import { api, unwrap } from '../../api/client'
import { download } from '../../api/download'
import { useLookedAt } from '../../api/lookedAt'
import { useSeat } from '../../api/me'
import { dayText } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Following } from '../../ui/Following'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Panel } from '../../ui/Panel'
import { Due, When } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { Timeline } from '../../ui/Trail'
import { MessageSlip } from './MessageSlip'
import { Speaks } from './Speaks'
import { useAfterAct, useBegin, useLetter, useLetterActs, type Letter } from './useLetters'

/** One thread: what was written in it, who is in it, and what may be done. */
export function LetterPanel({ letterId, onClose }: { letterId: string; onClose: () => void }) {
  const found = useLetter(letterId)
  useLookedAt('letter', found.data?.line.id)
  const { tab, message } = useSearch({ strict: false })
  useNoteSeen(found.data)
  if (!found.data)
    return (
      <Panel label="Letter" onClose={onClose} width={620}>
        {found.error ? <ErrorNote error={found.error} /> : <Loading what="the letter" />}
      </Panel>
    )
  const letter = found.data
  return (
    <Panel label="Letter" onClose={onClose} width={620}>
      <Head letter={letter} />
      <Tabs
        label="Letter"
        asked={tab}
        tabs={[
          {
            key: 'now',
            words: 'Thread',
            count: letter.messages.length,
            content: <Thread letter={letter} asked={message} />,
          },
          {
            key: 'people',
            words: 'People',
            count: letter.parties.length,
            content: <People letter={letter} />,
          },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={letterId} /> },
        ]}
      />
    </Panel>
  )
}

/** Whoever has it open has read it; through another's eyes nobody has. */
function useNoteSeen(letter: Letter | undefined) {
  const { me } = useSeat()
  const after = useAfterAct()
  const place = letter?.messages.at(-1)?.place ?? 0
  const isNew = letter !== undefined && !me.looker && place > letter.seen_place
  useEffect(() => {
    if (!isNew || !letter) return
    const path = { path: { letter_id: letter.line.id } }
    // A refusal leaves it unread; the next look tries again.
    unwrap(api.POST('/api/letters/{letter_id}/seen', { params: path, body: { place } })).then(
      after,
      () => undefined,
    )
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each message that is new
  }, [isNew, place, letter?.line.id])
}

function Head({ letter }: { letter: Letter }) {
  const { line } = letter
  return (
    <header className="px-4 pt-3 pr-10 pb-2">
      <Stands letter={letter} />
      <h2 className="text-head font-semibold break-words">
        <span className="code">{line.number}</span> {line.subject}
      </h2>
      <p className="text-list text-second">
        {line.kind_words} from {line.written_by || line.began_by.name}, {line.company_name}
        {line.state !== 'draft' && <>, to {line.to || 'the project'}</>}
      </p>
      {letter.bar_on && letter.aware_on && (
        <p className="text-list text-second">
          aware since {dayText(letter.aware_on, '')}, time bar {dayText(letter.bar_on, '')}
        </p>
      )}
    </header>
  )
}

function Stands({ letter: { line } }: { letter: Letter }) {
  const { standing } = line
  return (
    <p className="flex flex-wrap items-center gap-x-2 text-list text-second">
      {line.private && (
        <span className="inline-flex items-center gap-1 font-semibold text-ochre">
          <Lock size={12} aria-hidden /> private
        </span>
      )}
      <span>
        {line.state}
        {standing.with_whom && `, with ${standing.with_whom}`}
      </span>
      {standing.since_at && (
        <span>
          since <When at={standing.since_at} />
        </span>
      )}
      {standing.due_on && (
        <span>
          due <Due standing={standing} />
        </span>
      )}
      {line.days_open !== null && line.days_open > 0 && <span>for {line.days_open} d</span>}
    </p>
  )
}

function Thread({ letter, asked }: { letter: Letter; asked: string | undefined }) {
  const newest = letter.messages.at(-1)?.place ?? 0
  const isOpen = (place: number, id: string) => place === newest || place > letter.seen_place || id === asked
  if (letter.line.state === 'draft') return <NotSent letter={letter} />
  return (
    <div className="flex flex-col gap-3">
      <Question letter={letter} />
      <Acts letter={letter} />
      <Speaks about={letter.about} />
      <ol aria-label="What was written" className="flex flex-col border border-line">
        {[...letter.messages].reverse().map((each) => (
          <MessageSlip
            key={each.id}
            letter={letter}
            message={each}
            openAtFirst={isOpen(each.place, each.id)}
          />
        ))}
      </ol>
      {letter.from_here && (
        <p className="text-list text-second">
          You are in it from here on: what was written before is not shown.
        </p>
      )}
      <Following kind="letter" target={letter.line.id} words="this thread" />
      <TakeOut letter={letter} />
    </div>
  )
}

/** A notice that is not served yet: that there is one, and by when; its words are its author's until then. */
function NotSent({ letter }: { letter: Letter }) {
  const { me } = useSeat()
  const mine = letter.line.began_by.id === me.person.id
  return (
    <div className="flex flex-col gap-3 text-list">
      <p>
        {letter.line.began_by.name} writes it. It is not sent, and what is written is theirs alone until then.
      </p>
      {mine && letter.draft_id && (
        <Link
          to="/letters/write/$messageId"
          params={{ messageId: letter.draft_id }}
          className="inline-block self-start leading-6 text-plum underline"
        >
          Go on writing
        </Link>
      )}
    </div>
  )
}

/** The thread as a file: on paper, or for a mail program; each taking is in the trail. */
function TakeOut({ letter }: { letter: Letter }) {
  return (
    <section aria-label="As a file" className="flex flex-wrap items-center gap-2">
      <Button small onClick={() => download(`/api/letters/${letter.line.id}/pdf`)}>
        PDF
      </Button>
      <Button small onClick={() => download(`/api/letters/${letter.line.id}/mbox`)}>
        Mails with their files, mbox
      </Button>
    </section>
  )
}

/** What a question proposes, and what it means. */
function Question({ letter }: { letter: Letter }) {
  const told: [string, string][] = [
    ['Proposed answer', letter.proposed],
    ['Effect on cost', letter.cost_effect],
    ['Effect on time', letter.time_effect],
  ]
  const there = told.filter(([, words]) => words)
  if (!letter.asks || !there.length) return null
  return (
    <dl className="grid grid-cols-[120px_1fr] gap-x-3 gap-y-1 border border-line bg-paper px-3 py-2 text-list">
      {there.map(([label, words]) => (
        <div key={label} className="contents">
          <dt className="text-second">{label}</dt>
          <dd className="break-words whitespace-pre-line">{words}</dd>
        </div>
      ))}
    </dl>
  )
}

/** What may be done besides writing: the deed, its words, the act. */
function useDeeds(letter: Letter) {
  const { line } = letter
  const acts = useLetterActs(line.id)
  const { version } = line
  const privacy = line.private ? 'Show it to leads and controllers' : 'Keep it private'
  const deeds = [
    { deed: 'remind', words: 'Remind', act: acts.remind, press: () => acts.remind.mutate(version) },
    { deed: 'close', words: 'Close', act: acts.close, press: () => acts.close.mutate(version) },
    { deed: 'reopen', words: 'Open again', act: acts.reopen, press: () => acts.reopen.mutate(version) },
    {
      deed: 'privacy',
      words: privacy,
      act: acts.setPrivate,
      press: () => acts.setPrivate.mutate({ version, private: !line.private }),
    },
  ]
  return { deeds: deeds.filter((each) => line.may.includes(each.deed)), reminded: acts.remind.isSuccess }
}

function Acts({ letter }: { letter: Letter }) {
  const { line } = letter
  const begin = useBegin()
  const { deeds, reminded } = useDeeds(letter)
  const answers = line.may.includes('answer') && line.state === 'answer wanted'
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        {line.may.includes('write') && (
          <Button look="act" busy={begin.reply.isPending} onClick={() => begin.reply.mutate(line.id)}>
            {letter.draft_id ? 'Go on writing' : answers ? 'Give the answer' : 'Write in it'}
          </Button>
        )}
        {deeds.map(({ deed, words, act, press }) => (
          <Button key={deed} busy={act.isPending} onClick={press}>
            {words}
          </Button>
        ))}
      </div>
      {reminded && (
        <p role="status" className="text-list text-spruce">
          {letter.asked?.name} is reminded.
        </p>
      )}
      <ErrorNote error={begin.reply.error} />
      {deeds.map(({ deed, act }) => (
        <ErrorNote key={deed} error={act.error} />
      ))}
    </div>
  )
}

function People({ letter }: { letter: Letter }) {
  return (
    <ul className="flex flex-col gap-1 text-list">
      {letter.parties.map((each) => (
        <li key={`${each.kind} ${each.id}`} className="flex items-baseline gap-2">
          <span className="w-14 text-second">{each.how === 'to' ? 'to' : 'copied'}</span>
          <span>
            {each.name} {each.kind === 'person' && <span className="text-second">({each.company})</span>}
            {each.contact && <span className="text-second"> outside, by mail and link</span>}
          </span>
        </li>
      ))}
      <li className="text-second">
        {letter.line.private
          ? 'It is private: nobody else sees it, leads, controllers and stewards neither.'
          : 'Leads and controllers see it too. Who is in it is changed as one writes in it.'}
      </li>
    </ul>
  )
}
