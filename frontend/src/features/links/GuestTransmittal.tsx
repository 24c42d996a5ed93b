import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, unwrapAs } from '../../api/client'
import { download } from '../../api/download'
import { isLost } from '../../api/fetched'
import { bytesText } from '../../domain/bytes'
import { dayText, fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { Loading } from '../../ui/Notes'
import { Closed, type RoomProps } from './GuestDocument'
import { GuestFile, type File } from './GuestFile'
import { GuestReceipt } from './GuestReceipt'
import { GuestSentList } from './GuestSentList'
import { GuestTalk } from './GuestTalk'
import { asGuest, ZONE, type Entered, type GuestSent } from './guestVisit'

const KEY = ['guest', 'transmittal'] as const

/** A transmittal by a link: what came, from whom, why, and what to do by when. */
export function GuestTransmittal({ visit, onClosed }: RoomProps) {
  const found = useQuery({
    queryKey: [...KEY, visit.guest],
    queryFn: () => unwrap(api.GET('/api/guest/transmittal', asGuest(visit))),
    retry: false,
    refetchInterval: (query) => (query.state.data && !query.state.data.packed ? 2000 : false),
  })
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the transmittal" />
  return <Sent visit={visit} it={found.data} />
}

function Sent({ visit, it }: { visit: Entered; it: GuestSent }) {
  const [at, setAt] = useState(-1)
  const client = useQueryClient()
  const again = () => client.invalidateQueries({ queryKey: KEY })
  const take = (address: string) => {
    download(`/api/guest/transmittal/${address}`, { guest: visit.guest })
    setTimeout(() => void again(), 1500)
  }
  const takeFile = (id: string) => take(`files/${id}/file`)
  const taken = it.allows.includes('download') && !it.void
  const looked = it.void ? undefined : it.documents[at]
  if (looked)
    return (
      <GuestFile
        key={looked.revision_id}
        visit={visit}
        of={it.number}
        documents={it.documents}
        address="/api/guest/transmittal/files"
        read={(id) => readFile(visit, id)}
        at={at}
        onOpen={setAt}
        onTake={taken ? takeFile : undefined}
      />
    )
  return (
    <main className="mx-auto max-w-[960px] px-4 py-6 md:px-6 md:py-8">
      <Head it={it} />
      {it.void ? (
        <IsVoid it={it} found={it.void} />
      ) : (
        <>
          <Parts it={it} onTake={taken ? (part) => take(`parts/${part}`) : undefined} />
          <GuestReceipt visit={visit} it={it} onDone={again} />
        </>
      )}
      <GuestSentList it={it} onLook={it.void ? undefined : setAt} onTake={taken ? take : undefined} />
      {it.allows.includes('comment') && <Question visit={visit} it={it} />}
    </main>
  )
}

function readFile(visit: Entered, revisionId: string): Promise<File> {
  return unwrapAs<File>(
    api.GET('/api/guest/transmittal/files/{revision_id}', {
      params: { path: { revision_id: revisionId } },
      ...asGuest(visit),
    }),
  )
}

function Question({ visit, it }: { visit: Entered; it: GuestSent }) {
  return (
    <GuestTalk
      visit={visit}
      head="Questions"
      label={`Ask ${it.sent_by.name}`}
      act="Ask"
      readers={`${it.sent_by.name} is told by mail. Whoever sent or got this transmittal can read it.`}
    />
  )
}

/** It was a mistake: nothing of it is given away any more. */
function IsVoid({ it, found }: { it: GuestSent; found: NonNullable<GuestSent['void']> }) {
  return (
    <div role="status" className="mb-5 border-l-4 border-brick bg-brick-tint px-3 py-2 text-brick">
      <p className="font-semibold">
        {it.number} is void since {fullInstant(found.at, ZONE)}. Do not work from it.
      </p>
      <p>“{found.why}”</p>
      <p>
        {found.replaced_by
          ? `In its place came ${found.replaced_by}; its link was mailed to whoever it went to.`
          : `${found.by.name} voided it.`}
      </p>
    </div>
  )
}

function Head({ it }: { it: GuestSent }) {
  return (
    <>
      <header className="mb-5 flex items-start justify-between gap-4">
        <div>
          <p className="text-second">{it.project}</p>
          <h1 className="text-title font-semibold">
            Transmittal <span className="code">{it.number}</span>
          </h1>
          <p className="text-read">
            {it.sent_by.name}, {it.company}, sends you {it.documents.length} document
            {it.documents.length !== 1 && 's'}. {it.purpose}.
          </p>
          <p className="text-second">
            Sent {fullInstant(it.sent_at, ZONE)}, to {it.recipient.name} ({it.recipient.company}).
            {it.expires_on && ` This link works until the end of ${dayText(it.expires_on, '')}.`}
          </p>
        </div>
        <Logo className="size-9" />
      </header>
      {it.note && (
        <p className="mb-4 border-l-2 border-line pl-3 text-read whitespace-pre-line">“{it.note}”</p>
      )}
      {it.answer_wanted_on && (
        <p className="mb-4 bg-ochre-tint px-3 py-2 text-ochre">
          An answer is wanted by {dayText(it.answer_wanted_on, '')}.
        </p>
      )}
    </>
  )
}

interface PartsProps {
  it: GuestSent
  onTake: ((part: 'pack' | 'cover') => void) | undefined
}

/** All of it at once, where it may be taken away. */
function Parts({ it, onTake }: PartsProps) {
  if (!onTake) return <p className="mb-4 text-second">It was sent to be looked at, not downloaded.</p>
  if (!it.packed)
    return (
      <p role="status" className="mb-4">
        The ZIP is being packed, {it.files_packed} of {it.documents.length} …
      </p>
    )
  return (
    <div className="mb-4 flex flex-wrap items-center gap-3">
      <Button look="act" onClick={() => onTake('pack')}>
        Download all, ZIP, {bytesText(it.pack_bytes)}
      </Button>
      <Button onClick={() => onTake('cover')}>Cover sheet, PDF</Button>
      {it.downloaded_at && (
        <span className="text-note text-spruce">ZIP downloaded {fullInstant(it.downloaded_at, ZONE)}</span>
      )}
    </div>
  )
}
