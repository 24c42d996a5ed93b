import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useParams } from '@tanstack/react-router'
import { useState, type ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Refused } from '../../api/problems'
import { fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { GuestDocument } from './GuestDocument'
import { GuestReview } from './GuestReview'
import { GuestSession } from './session/GuestSession'
import { GuestShared } from './GuestShared'
import { GuestLetter } from './GuestLetter'
import { GuestSubmittal } from './GuestSubmittal'
import { GuestTransmittal } from './GuestTransmittal'
import { forgetVisit, keepVisit, visitBy, type Entered } from './guestVisit'
import { isLost } from '../../api/fetched'

type Front = Schemas['LinkFront']

const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

/** What the holder of a link sees: first from whom it is and for what; then, after one press, the thing itself. */
export function LinkPage() {
  const { token } = useParams({ strict: false })
  return <Visit key={token} token={token ?? ''} />
}

/** One visit by one link. */
export function Visit({ token }: { token: string }) {
  const [visit, setVisit] = useState(() => visitBy(token))
  const enter = (entered: Entered) => {
    keepVisit(token, entered)
    setVisit(entered)
  }
  const leave = () => {
    forgetVisit(token)
    setVisit(null)
  }
  if (!visit) return <FrontPage token={token} onEntered={enter} />
  const room = { visit, onClosed: leave }
  if (visit.kind === 'transmittal') return <GuestTransmittal {...room} />
  if (visit.kind === 'document') return <GuestDocument {...room} />
  if (visit.kind.startsWith('shared_')) return <GuestShared {...room} />
  if (visit.kind === 'session') return <GuestSession {...room} />
  if (visit.kind === 'letter') return <GuestLetter {...room} />
  if (visit.kind === 'submittal') return <GuestSubmittal {...room} />
  if (visit.kind === 'review') return <GuestReview {...room} />
  return <Leaf title="There is no page for this yet">Ask its sender to send it another way.</Leaf>
}

function Leaf({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="mx-auto max-w-[620px] px-4 py-8 md:p-10">
      <Logo className="mb-4 size-9" />
      <h1 className="mb-2 text-title font-semibold">{title}</h1>
      <div className="text-read">{children}</div>
    </main>
  )
}

function FrontPage({ token, onEntered }: { token: string; onEntered: (entered: Entered) => void }) {
  const front = useQuery({
    queryKey: ['link', token],
    queryFn: () => unwrap(api.POST('/api/guest/look', { body: { token } })),
    retry: false,
  })
  if (isLost(front))
    return front.error instanceof Refused && front.error.problem.code === 'not_found' ? (
      <Leaf title="This link leads nowhere">
        It may be incomplete: check that the whole address was copied from the mail. Otherwise ask its sender
        for a new one.
      </Leaf>
    ) : (
      <Leaf title="The link could not be opened">
        <ErrorNote error={front.error} again={() => void front.refetch()} />
      </Leaf>
    )
  if (!front.data) return <Loading what="the link" />
  if (front.data.closed)
    return (
      <Leaf title={front.data.closed}>
        {front.data.given_by && <>Ask {front.data.given_by.name} for a new one.</>}
      </Leaf>
    )
  return <Door token={token} front={front.data} onEntered={onEntered} />
}

interface DoorProps {
  token: string
  front: Front
  onEntered: (entered: Entered) => void
}

interface Said {
  name: string
  password: string
}

function Door({ token, front, onEntered }: DoorProps) {
  const [said, setSaid] = useState<Said>({ name: '', password: '' })
  const enter = useMutation({
    mutationFn: () => unwrap(api.POST('/api/guest/enter', { body: { token, ...said } })),
    onSuccess: onEntered,
  })
  const unsaid = (front.needs_name && said.name.trim().length < 2) || (front.needs_password && !said.password)
  return (
    <Leaf title={`A ${front.kind_words} for ${front.to?.name ?? 'you'}`}>
      <From front={front} />
      <form
        className="mt-4 flex max-w-[360px] flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          enter.mutate()
        }}
      >
        <Asked front={front} said={said} onSay={setSaid} />
        <ErrorNote error={enter.error} />
        {needsSignIn(enter.error) && (
          <Link to="/sign-in" search={{ next: `/l/${token}` }} className="text-plum underline">
            Sign in
          </Link>
        )}
        <div className="flex items-center gap-3">
          <Button look="act" type="submit" busy={enter.isPending} why={unsaid && 'Say your name first.'}>
            Open it
          </Button>
          {unsaid && <span className="text-list text-second">Fill in what is asked first.</span>}
        </div>
      </form>
    </Leaf>
  )
}

const needsSignIn = (error: unknown) => error instanceof Refused && error.problem.code === 'not_signed_in'

function From({ front }: { front: Front }) {
  return (
    <>
      <p>
        {front.given_by && (
          <>
            From {front.given_by.name} <span className="code">{front.given_by.company}</span>,{' '}
          </>
        )}
        {front.project}.
      </p>
      {front.ends_at && (
        <p className="text-second">It can be opened until {fullInstant(front.ends_at, ZONE)}.</p>
      )}
    </>
  )
}

function Asked({ front, said, onSay }: { front: Front; said: Said; onSay: (said: Said) => void }) {
  return (
    <>
      {front.needs_name && (
        <TextField
          keep="passing"
          label="Your name"
          autoComplete="name"
          value={said.name}
          onChange={(event) => onSay({ ...said, name: event.target.value })}
          hint={<p className="mt-0.5 text-note text-second">It is kept with what you do here.</p>}
        />
      )}
      {front.needs_password && (
        <TextField
          keep="secret"
          label="Password of the link"
          type="password"
          autoComplete="off"
          value={said.password}
          onChange={(event) => onSay({ ...said, password: event.target.value })}
        />
      )}
    </>
  )
}
