import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { bytesText } from '../../domain/bytes'
import { dayText, fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { VerdictContext, VerdictMark } from '../../ui/Stamp'
import { Closed, type RoomProps } from './GuestDocument'
import { asGuest, type Entered } from './guestVisit'
import { isLost } from '../../api/fetched'

type View = Schemas['GuestView']

const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

/** A transmittal by a link: what came, from whom, why, and what to do by when. */
export function GuestTransmittal({ visit, onClosed }: RoomProps) {
  const found = useQuery({
    queryKey: ['guest', 'transmittal', visit.guest],
    queryFn: () => unwrap(api.GET('/api/guest/transmittal', asGuest(visit))),
    retry: false,
    refetchInterval: (query) => (query.state.data && !query.state.data.packed ? 2000 : false),
  })
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the transmittal" />
  const it = found.data
  return (
    <main className="mx-auto max-w-[860px] px-4 py-6 md:px-6 md:py-8">
      <Head it={it} />
      {it.note && (
        <p className="mb-4 border-l-2 border-line pl-3 text-read whitespace-pre-line">“{it.note}”</p>
      )}
      {it.answer_wanted_on && (
        <p className="mb-4 bg-ochre-tint px-3 py-2 text-ochre">
          An answer is wanted by {dayText(it.answer_wanted_on, '')}.
        </p>
      )}
      {it.void ? <IsVoid it={it} found={it.void} /> : <Acts visit={visit} it={it} />}
      <Documents it={it} />
    </main>
  )
}

/** It was a mistake: nothing of it is given away any more. */
function IsVoid({ it, found }: { it: View; found: NonNullable<View['void']> }) {
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

function Head({ it }: { it: View }) {
  return (
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
        </p>
      </div>
      <Logo className="size-9" />
    </header>
  )
}

function Acts({ visit, it }: { visit: Entered; it: View }) {
  const client = useQueryClient()
  const again = () => client.invalidateQueries({ queryKey: ['guest', 'transmittal'] })
  const acknowledge = useMutation({
    mutationFn: () => unwrap(api.POST('/api/guest/transmittal/acknowledge', asGuest(visit))),
    onSettled: again,
  })
  const take = (part: 'pack' | 'cover') => {
    download(`/api/guest/transmittal/parts/${part}`, { guest: visit.guest })
    setTimeout(() => void again(), 1500)
  }
  return (
    <>
      <div className="mb-5 flex flex-wrap items-center gap-3">
        {it.packed ? (
          <>
            <Button look="act" onClick={() => take('pack')}>
              Download all, ZIP, {bytesText(it.pack_bytes)}
            </Button>
            <Button onClick={() => take('cover')}>Cover sheet, PDF</Button>
          </>
        ) : (
          <p role="status">
            The documents are being packed, {it.files_packed} of {it.documents.length} …
          </p>
        )}
        {it.acknowledged_at ? (
          <p role="status" className="font-semibold text-spruce">
            Acknowledged {fullInstant(it.acknowledged_at, ZONE)}. Thank you.
          </p>
        ) : (
          <Button look="act" busy={acknowledge.isPending} onClick={() => acknowledge.mutate()}>
            Acknowledge that I have it
          </Button>
        )}
      </div>
      <ErrorNote error={acknowledge.error} />
    </>
  )
}

function Documents({ it }: { it: View }) {
  return (
    <VerdictContext.Provider value={it.verdict_set}>
      <div data-wide className="relative overflow-x-auto">
        <table className="w-full border border-line bg-surface text-body">
          <thead className="border-b border-second/40 text-left text-note text-second">
            <tr>
              <th className="px-3 py-1.5 font-semibold">Number</th>
              <th className="px-2 font-semibold">Rev</th>
              <th className="px-2 font-semibold">Title</th>
              <th className="px-2 font-semibold">Verdict</th>
            </tr>
          </thead>
          <tbody>
            {it.documents.map((document) => (
              <tr key={document.revision_id} className="border-b border-line/60">
                <td className="code px-3 py-1.5">{document.number}</td>
                <td className="code px-2 font-bold">{document.revision}</td>
                <td className="px-2">
                  {document.title}
                  {GONE.includes(document.standing.kind) && (
                    <span className="font-semibold text-brick"> {olderWords(document)}</span>
                  )}
                </td>
                <td className="px-2">
                  {document.verdict ? <VerdictMark code={document.verdict} spelled /> : 'none'}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </VerdictContext.Provider>
  )
}

const GONE = ['superseded', 'withdrawn']

/** Only what came after it was sent came since. */
function olderWords({ standing, older_then: then }: View['documents'][number]): string {
  return then ? `(when this was sent already: ${standing.words})` : `(since: ${standing.words})`
}
