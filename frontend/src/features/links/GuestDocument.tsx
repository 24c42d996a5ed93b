import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { api, unwrap } from '../../api/client'
import { download } from '../../api/download'
import { bytesText } from '../../domain/bytes'
import { fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { PageTurner } from './GuestPages'
import { GuestTalk } from './GuestTalk'
import { asGuest, pictureOf, ZONE, type Entered } from './guestVisit'
import { isLost } from '../../api/fetched'

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
      {it.allows.includes('comment') && (
        <GuestTalk visit={visit} head="What is said about it" label="Say something" act="Say it" />
      )}
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
      <div className="mb-2">
        <PageTurner count={pages} page={page} onPage={setPage} />
      </div>
      <ErrorNote error={picture.error} again={() => void picture.refetch()} />
      {shown ? (
        <img src={shown} alt={`Page ${page + 1}`} className="w-full border border-line bg-white" />
      ) : (
        !picture.error && <Loading what="the page" />
      )}
    </section>
  )
}
