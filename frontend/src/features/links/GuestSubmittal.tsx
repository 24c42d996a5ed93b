import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Download } from 'lucide-react'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { isLost } from '../../api/fetched'
import { bytesText } from '../../domain/bytes'
import { dayText, fullInstant } from '../../domain/dates'
import { IconButton } from '../../ui/IconButton'
import { Logo } from '../../ui/Logo'
import { Loading } from '../../ui/Notes'
import { VerdictMark } from '../../ui/Stamp'
import { Closed, type RoomProps } from './GuestDocument'
import { GuestRoundForm } from './GuestRoundForm'
import { GuestTalk } from './GuestTalk'
import { asGuest, ZONE, type Entered } from './guestVisit'

type It = Schemas['GuestSubmittal']
type Round = It['rounds'][number]

/** A submittal by a link: what is asked of its holder, what was sent in and answered, and what is said about it. */
export function GuestSubmittal({ visit, onClosed }: RoomProps) {
  const client = useQueryClient()
  const key = ['guest', 'submittal', visit.guest] as const
  const found = useQuery({
    queryKey: key,
    queryFn: () => unwrapAs<It>(api.GET('/api/guest/submittal', asGuest(visit))),
    retry: false,
    // The live channel is for those who are signed in.
    refetchInterval: 30_000,
  })
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the submittal" />
  const it = found.data
  return (
    <main className="mx-auto max-w-[980px] px-4 py-6 md:px-6 md:py-8">
      <Head it={it} />
      {it.wanted ? (
        <GuestRoundForm
          key={`${it.wanted} ${it.revision}`}
          visit={visit}
          it={it}
          onDone={() => client.invalidateQueries({ queryKey: key })}
        />
      ) : (
        <p role="status" className="mb-5 text-read font-semibold text-spruce">
          {standing(it)}
        </p>
      )}
      <Details it={it} />
      <Rounds visit={visit} rounds={it.rounds} />
      <GuestTalk
        visit={visit}
        head="What is said about it"
        label="A question, or a word"
        act="Say it"
        readers="Those who have a part in this submittal read it."
      />
    </main>
  )
}

function Head({ it }: { it: It }) {
  return (
    <header className="mb-4 flex items-start justify-between gap-4">
      <div className="min-w-0">
        <p className="text-second">{it.project}</p>
        <h1 className="text-title font-semibold break-words">
          <span className="code">{it.number}</span> {it.title}
        </h1>
        <p className="text-read">
          {it.kind}, from {it.company}. Kept by {it.given_by.name}{' '}
          <span className="code">{it.given_by.company}</span>.
        </p>
        <p className="text-second">You are here as {it.guest}.</p>
      </div>
      <Logo className="size-9 shrink-0" />
    </header>
  )
}

/** What there is to know where nothing is asked of the guest. */
function standing(it: It): string {
  const [last] = it.rounds
  if (it.state === 'void') return 'It is void: nothing is wanted any more.'
  if (it.state === 'sent in' || it.state === 'under review') return 'It has been sent in. Thank you.'
  if (last?.answered_at) return 'It has been answered: see below. Nothing is asked of you here now.'
  return 'Nothing is asked of you here now.'
}

function Details({ it }: { it: It }) {
  const told: [string, string][] = [
    ['Specification', [it.section, it.paragraph].filter(Boolean).join(' ')],
    ['What', it.description],
    ['Reference', it.reference],
    ['Location', it.location],
    ['Required on site', it.required_on ? dayText(it.required_on, '') : ''],
  ]
  const there = told.filter(([, words]) => words)
  if (!there.length) return null
  return (
    <dl className="mb-5 grid max-w-[76ch] grid-cols-[auto_1fr] gap-x-4 gap-y-1 text-read">
      {there.map(([label, words]) => (
        <div key={label} className="contents">
          <dt className="text-second">{label}</dt>
          <dd className="break-words whitespace-pre-line">{words}</dd>
        </div>
      ))}
    </dl>
  )
}

interface RoundsProps {
  visit: Entered
  rounds: readonly Round[]
}

function Rounds({ visit, rounds }: RoundsProps) {
  if (!rounds.length) return null
  return (
    <section aria-label="Rounds" className="max-w-[76ch]">
      <h2 className="mb-2 text-head font-semibold">What was sent in</h2>
      <ol className="flex flex-col gap-3">
        {rounds.map((round) => (
          <li key={round.revision} className="border border-line bg-surface px-3 py-2">
            <p className="font-semibold">Revision {round.revision}</p>
            <p className="text-second">
              Sent in {fullInstant(round.sent_at, ZONE)} by {round.sent_by.name} ({round.sent_by.company})
            </p>
            <Note text={round.note} />
            <Files visit={visit} files={round.files} />
            {round.answered_at && <Answered visit={visit} round={round} />}
          </li>
        ))}
      </ol>
    </section>
  )
}

function Answered({ visit, round }: { visit: Entered; round: Round }) {
  return (
    <div className="mt-2 border-t border-line pt-2">
      <p className="flex flex-wrap items-center gap-x-2">
        {round.verdict && <VerdictMark code={round.verdict.code} spelled />}
        {round.verdict && <span>{round.verdict.words}</span>}
        <span className="text-second">
          {round.answered_at && fullInstant(round.answered_at, ZONE)}
          {round.approver && `, ${round.approver.name} (${round.approver.company})`}
        </span>
      </p>
      <Note text={round.answer_note} />
      <Files visit={visit} files={round.answer_files} />
    </div>
  )
}

function Note({ text }: { text: string }) {
  if (!text) return null
  return <p className="border-l-2 border-line pl-2 whitespace-pre-line">{text}</p>
}

function Files({ visit, files }: { visit: Entered; files: readonly Schemas['Attachment'][] }) {
  return (
    <ul aria-label="Files" className="mt-1 flex flex-col gap-1">
      {files.map((each) => (
        <li key={each.id} className="flex items-center gap-2">
          <span className="min-w-0 break-all">{each.name}</span>
          <span className="whitespace-nowrap text-second">{bytesText(each.size_bytes)}</span>
          <IconButton
            label={`Download ${each.name}`}
            icon={<Download size={15} aria-hidden />}
            onClick={() => download(`/api/guest/submittal/files/${each.id}/download`, { guest: visit.guest })}
          />
          {each.trouble && <span className="text-ochre">{each.trouble}</span>}
        </li>
      ))}
    </ul>
  )
}
