import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, unwrapAs } from '../../api/client'
import { isLost } from '../../api/fetched'
import { counted } from '../../domain/counted'
import { dayText } from '../../domain/dates'
import { Logo } from '../../ui/Logo'
import { Loading } from '../../ui/Notes'
import { useAnswersBy, type Ways } from '../../ui/useBegunAnswers'
import { Closed, type RoomProps } from './GuestDocument'
import { GuestSheet } from './GuestSheet'
import { GuestAnswer } from './GuestAnswer'
import { asGuest, type Entered, type Part } from './guestVisit'

const keyOf = (visit: Entered) => ['guest', 'review', visit.guest] as const

function usePart(visit: Entered) {
  return useQuery({
    queryKey: keyOf(visit),
    queryFn: () => unwrapAs<Part>(api.GET('/api/guest/review', asGuest(visit))),
    retry: false,
    // The live channel is for those who are signed in.
    refetchInterval: 30_000,
  })
}

/** A part in a review by a link: what is asked, the sheets with their ink, and the answer. */
export function GuestReview({ visit, onClosed }: RoomProps) {
  const found = usePart(visit)
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the review" />
  const part = found.data
  if (!part.documents.length) return <Over part={part} />
  return <Asked key={part.step_id} visit={visit} part={part} />
}

const OVER: Record<string, string> = {
  handed_in: 'Handed in. Thank you.',
  over: 'Your answer is not needed any more. Thank you.',
}

function Over({ part }: { part: Part }) {
  return (
    <main className="mx-auto max-w-[620px] px-4 py-8 md:p-10">
      <Logo className="mb-4 size-9" />
      <p className="text-second">{part.project}</p>
      <h1 className="mb-2 text-title font-semibold">
        <span className="code">{part.number}</span> {part.name}
      </h1>
      <p role="status" className="text-read font-semibold text-spruce">
        {OVER[part.state] ?? 'Nothing is asked of you here now.'}
      </p>
      <p className="mt-2 text-read">
        {part.state === 'handed_in' &&
          `What you said in the step ${part.step} stays as it is. If more is asked of you in this review, a mail tells you, and this link opens it.`}
      </p>
    </main>
  )
}

function waysOf(visit: Entered, stepId: string): Ways {
  return {
    key: ['guest', 'begun', visit.guest, stepId],
    read: async () => (await unwrap(api.GET('/api/guest/review', asGuest(visit)))).begun,
    keep: (answers) =>
      unwrap(
        api.PUT('/api/guest/review/steps/{step_id}/begun', {
          params: { path: { step_id: stepId } },
          ...asGuest(visit),
          body: { answers },
        }),
      ),
  }
}

function Asked({ visit, part }: { visit: Entered; part: Part }) {
  const client = useQueryClient()
  const answers = useAnswersBy(`link ${part.step_id}`, part.number, waysOf(visit, part.step_id))
  const [chosen, setChosen] = useState('')
  const at = Math.max(
    0,
    part.documents.findIndex((each) => each.revision_id === chosen),
  )
  const document = part.documents[at]
  if (!document) return null
  return (
    <main className="flex h-dvh flex-col">
      <Head part={part} />
      <GuestSheet key={document.revision_id} visit={visit} part={part} document={document} />
      <GuestAnswer
        visit={visit}
        part={part}
        at={at}
        answers={answers}
        onOpen={(place) => setChosen(part.documents[place]?.revision_id ?? '')}
        onHandedIn={() => client.invalidateQueries({ queryKey: keyOf(visit) })}
      />
    </main>
  )
}

function Head({ part }: { part: Part }) {
  return (
    <header className="flex shrink-0 items-center gap-3 border-b border-line px-3 py-1.5">
      <Logo className="size-7 shrink-0" />
      <div className="min-w-0 flex-1">
        <h1 className="truncate text-read font-semibold">
          <span className="code">{part.number}</span> {part.name}
        </h1>
        <p className="truncate text-list text-second" title={part.message}>
          {part.project}. From {part.given_by.name} <span className="code">{part.given_by.company}</span>.
          {part.message && ` “${part.message}”`}
        </p>
      </div>
      <p className="shrink-0 text-right text-list">
        <span className="font-semibold text-plum">{part.step}</span>
        {part.due_on && <span className="block">by {dayText(part.due_on, '')}</span>}
        <span className="block text-second max-md:hidden">
          {counted(part.documents.length, 'document')}; you are {part.guest}
        </span>
      </p>
    </header>
  )
}
