import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, unwrapAs } from '../../api/client'
import { isLost } from '../../api/fetched'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { Loading } from '../../ui/Notes'
import { useAnswersBy, type Ways } from '../../ui/useBegunAnswers'
import { Closed, type RoomProps } from './GuestDocument'
import { GuestHead } from './GuestHead'
import { GuestResponses } from './GuestResponses'
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
  return <Room visit={visit} part={found.data} />
}

/** What is asked in a step, or what was said of one's documents; where it is both, one of the two at a time. */
function Room({ visit, part }: { visit: Entered; part: Part }) {
  const client = useQueryClient()
  const [responds, setResponds] = useState(false)
  const again = () => client.invalidateQueries({ queryKey: keyOf(visit) })
  const asked = part.documents.filter((each) => each.asked)
  if (part.comments.length && (responds || !asked.length))
    return (
      <GuestResponses
        visit={visit}
        part={part}
        onBack={asked.length ? () => setResponds(false) : undefined}
        onSaid={again}
      />
    )
  if (!asked.length) return <Over part={part} />
  return (
    <Asked
      key={part.step_id}
      visit={visit}
      part={{ ...part, documents: asked }}
      onResponses={part.comments.length ? () => setResponds(true) : undefined}
      onHandedIn={again}
    />
  )
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

interface AskedProps {
  visit: Entered
  part: Part
  onResponses: (() => void) | undefined
  onHandedIn: () => Promise<void>
}

function Asked({ visit, part, onResponses, onHandedIn }: AskedProps) {
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
      <GuestHead part={part}>
        {onResponses && (
          <Button small onClick={onResponses}>
            {counted(part.comments.length, 'comment')} on your documents
          </Button>
        )}
      </GuestHead>
      <GuestSheet key={document.revision_id} visit={visit} part={part} document={document} />
      <GuestAnswer
        visit={visit}
        part={part}
        at={at}
        answers={answers}
        onOpen={(place) => setChosen(part.documents[place]?.revision_id ?? '')}
        onHandedIn={onHandedIn}
      />
    </main>
  )
}
