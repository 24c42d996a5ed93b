import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { bytesText } from '../../domain/bytes'
import { fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { MailText } from '../../ui/MailText'
import { By } from '../../ui/Said'
import { asGuest, pictureOf, type Entered } from './guestVisit'
import { useField, useKept } from '../../ui/useKept'
import { isLost } from '../../api/fetched'

const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

export interface RoomProps {
  visit: Entered
  /** The link has closed meanwhile: back to its front. */
  onClosed: () => void
}

/** A document by a link: its revision of now, its pages, and as far as the link allows its file and its talk. */
export function GuestDocument({ visit, onClosed }: RoomProps) {
  const found = useQuery({
    queryKey: ['guest', 'document', visit.guest],
    queryFn: () => unwrap(api.GET('/api/guest/document', asGuest(visit))),
    retry: false,
  })
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the document" />
  const it = found.data
  return (
    <main className="mx-auto max-w-[980px] px-4 py-6 md:px-6 md:py-8">
      <header className="mb-4 flex items-start justify-between gap-4">
        <div className="min-w-0">
          <p className="text-second">{it.project}</p>
          <h1 className="text-title font-semibold break-words">
            <span className="code">{it.number}</span> {it.title}
          </h1>
          <p className="text-read">
            Revision <span className="code font-bold">{it.revision}</span>, status{' '}
            <span className="code">{it.status}</span>, filed {fullInstant(it.filed_at, ZONE)}. From{' '}
            {it.given_by.name} <span className="code">{it.given_by.company}</span>.
          </p>
          <p className="text-second">You are here as {it.guest}.</p>
        </div>
        <Logo className="size-9 shrink-0" />
      </header>
      {it.withdrawn && (
        <p className="mb-4 bg-brick-tint px-3 py-2 text-brick">
          This document has been withdrawn. Do not work from it.
        </p>
      )}
      {it.allows.includes('download') && (
        <p className="mb-4">
          <Button look="act" onClick={() => download('/api/guest/document/file', { guest: visit.guest })}>
            Download, {bytesText(it.size_bytes)}
          </Button>
        </p>
      )}
      {it.pages > 0 ? (
        <Pages visit={visit} pages={it.pages} />
      ) : (
        <p className="text-second">This file has no pages to look at.</p>
      )}
      {it.allows.includes('comment') && <GuestTalk visit={visit} />}
    </main>
  )
}

export function Closed({ error, onClosed }: { error: unknown; onClosed: () => void }) {
  return (
    <main className="mx-auto max-w-[620px] p-10">
      <h1 className="mb-2 text-title font-semibold">This visit is over</h1>
      <ErrorNote error={error} />
      <Button onClick={onClosed}>Back to the link</Button>
    </main>
  )
}

function Pages({ visit, pages }: { visit: Entered; pages: number }) {
  const [page, setPage] = useState(0)
  const picture = useQuery({
    queryKey: ['guest', 'page', visit.guest, page],
    queryFn: () => pictureOf(visit, page),
    staleTime: Infinity,
    gcTime: 0,
  })
  const shown = picture.data
  useEffect(() => () => (shown ? URL.revokeObjectURL(shown) : undefined), [shown])
  return (
    <section aria-label="Pages">
      {pages > 1 && (
        <div className="mb-2 flex items-center gap-2 text-list">
          <Button small why={page === 0 && 'This is the first page.'} onClick={() => setPage(page - 1)}>
            Page before
          </Button>
          <span>
            {page + 1} of {pages}
          </span>
          <Button
            small
            why={page + 1 === pages && 'This is the last page.'}
            onClick={() => setPage(page + 1)}
          >
            Page after
          </Button>
        </div>
      )}
      <ErrorNote error={picture.error} again={() => void picture.refetch()} />
      {shown ? (
        <img src={shown} alt={`Page ${page + 1}`} className="w-full border border-line bg-white" />
      ) : (
        !picture.error && <Loading what="the page" />
      )}
    </section>
  )
}

/** Times are the reader's own here, as a guest sits in no project. */
function Words({ said }: { said: Schemas['Reply'] }) {
  return (
    <div className="mb-1.5 border-l-2 border-line pl-2">
      <p className="text-note text-second">
        <By author={said.author} /> · {fullInstant(said.at, ZONE)}
      </p>
      <MailText text={said.text} folds={said.folds} />
      {said.attachments.length > 0 && (
        <p className="text-note text-second">
          With it: {said.attachments.map((each) => each.name).join(', ')}
        </p>
      )}
    </div>
  )
}

function GuestTalk({ visit }: { visit: Entered }) {
  const client = useQueryClient()
  const key = ['guest', 'talk', visit.guest] as const
  const form = useKept('guest-talk', visit.guest)
  const [text, setText] = useField(form, 'text', '')
  const talk = useQuery({
    queryKey: key,
    queryFn: () => unwrap(api.GET('/api/guest/talk', asGuest(visit))),
    // The live channel is for those who are signed in.
    refetchInterval: 5000,
  })
  const say = useMutation({
    mutationFn: () => unwrap(api.POST('/api/guest/talk', { body: { text }, ...asGuest(visit) })),
    onSuccess: (answer: Schemas['GuestTalk']) => {
      client.setQueryData(key, answer)
      setText('')
    },
  })
  return (
    <section aria-label="Talk" className="mt-6 max-w-[76ch]">
      <h2 className="mb-2 text-head font-semibold">What is said about it</h2>
      <ErrorNote error={talk.error} again={() => void talk.refetch()} />
      {talk.data?.said.length === 0 && <p className="mb-2 text-second">Nobody has said anything yet.</p>}
      {talk.data?.said.map((each) => (
        <Words key={each.id} said={each} />
      ))}
      <form
        onSubmit={(event) => {
          event.preventDefault()
          say.mutate()
        }}
      >
        <TextArea
          keep={form}
          label="Say something"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <ErrorNote error={say.error} />
        <Button
          className="mt-2"
          look="act"
          type="submit"
          busy={say.isPending}
          why={!text.trim() && 'Write something first.'}
        >
          Say it
        </Button>
      </form>
    </section>
  )
}
