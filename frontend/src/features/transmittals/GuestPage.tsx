import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'

import { api, unwrap } from '../../api/client'
import { bytesText } from '../../domain/bytes'
import { dayText, fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { VerdictContext, VerdictMark } from '../../ui/Stamp'

const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

/** What the holder of a mailed link sees: no account, no training needed. */
export function GuestPage() {
  const { token } = useParams({ from: '/t/$token' })
  const client = useQueryClient()
  const path = { params: { path: { token } } }
  const found = useQuery({
    queryKey: ['link', token],
    queryFn: () => unwrap(api.GET('/api/links/{token}', path)),
    retry: false,
    refetchInterval: (query) => (query.state.data && !query.state.data.packed ? 2000 : false),
  })
  const onSettled = () => client.invalidateQueries({ queryKey: ['link', token] })
  const opened = useMutation({
    mutationFn: () => unwrap(api.POST('/api/links/{token}/opened', path)),
    onSettled,
  })
  const acknowledge = useMutation({
    mutationFn: () => unwrap(api.POST('/api/links/{token}/acknowledge', path)),
    onSettled,
  })
  const told = useRef(false)
  const ready = found.isSuccess
  const { mutate: tellOpened } = opened
  useEffect(() => {
    if (!ready || told.current) return
    told.current = true
    tellOpened()
  }, [ready, tellOpened])

  if (found.error)
    return (
      <main className="mx-auto max-w-[620px] p-10">
        <h1 className="mb-2 text-[20px] font-semibold">This link leads nowhere</h1>
        <p className="text-read">
          It may be incomplete: check that the whole address was copied from the mail. Otherwise ask its
          sender for a new one.
        </p>
      </main>
    )
  if (!found.data) return <Loading what="the transmittal" />
  const it = found.data
  const many = it.documents.length !== 1
  return (
    <main className="mx-auto max-w-[860px] px-4 py-6 md:px-6 md:py-8">
      <header className="mb-5 flex items-start justify-between gap-4">
        <div>
          <p className="text-second">{it.project}</p>
          <h1 className="text-[22px] font-semibold">
            Transmittal <span className="code">{it.number}</span>
          </h1>
          <p className="text-read">
            {it.sent_by.name}, {it.company}, sends you {it.documents.length} document{many && 's'}.{' '}
            {it.purpose}.
          </p>
          <p className="text-second">
            Sent {fullInstant(it.sent_at, ZONE)}, to {it.recipient.name} ({it.recipient.company}).
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
      <div className="mb-5 flex flex-wrap items-center gap-3">
        {it.packed ? (
          <>
            <GuestDownload
              token={token}
              part="pack"
              words={`Download all, ZIP, ${bytesText(it.pack_bytes)}`}
              onDone={onSettled}
              act
            />
            <GuestDownload token={token} part="cover" words="Cover sheet, PDF" onDone={onSettled} />
          </>
        ) : (
          <p role="status">The documents are being packed …</p>
        )}
        {it.acknowledged_at ? (
          <p role="status" className="font-semibold text-spruce">
            Acknowledged {fullInstant(it.acknowledged_at, ZONE)}. Thank you.
          </p>
        ) : (
          <Button look="act" disabled={acknowledge.isPending} onClick={() => acknowledge.mutate()}>
            Acknowledge that I have it
          </Button>
        )}
      </div>
      <ErrorNote error={acknowledge.error} />
      <VerdictContext.Provider value={it.verdict_set}>
        <div className="overflow-x-auto">
          <table className="w-full border border-line bg-surface text-[14px]">
            <thead className="border-b border-second/40 text-left text-[12.5px] text-second">
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
                    {document.revision !== document.current_revision && (
                      <span className="font-semibold text-brick">
                        {' '}
                        (superseded by {document.current_revision} since)
                      </span>
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
    </main>
  )
}

interface DownloadProps {
  token: string
  part: 'pack' | 'cover'
  words: string
  onDone: () => void
  act?: boolean
}

/** A plain form, so that the browser streams the file and the download is recorded. */
function GuestDownload({ token, part, words, onDone, act = false }: DownloadProps) {
  return (
    <form
      method="post"
      action={`/api/links/${token}/parts/${part}`}
      onSubmit={() => setTimeout(onDone, 1500)}
    >
      <Button type="submit" look={act ? 'act' : 'quiet'}>
        {words}
      </Button>
    </form>
  )
}
