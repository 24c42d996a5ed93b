import { useQuery } from '@tanstack/react-query'
import { Download, FileText, X } from 'lucide-react'
import { useState } from 'react'

import { api, unwrapAs, type Schemas } from '../api/client'
import { download } from '../api/download'
import { bytesText } from '../domain/bytes'
import { Dialog } from './Dialog'
import { FilePart } from './FilePart'
import { IconButton } from './IconButton'
import { ErrorNote, Loading } from './Notes'
import { Button } from './Button'
import type { Attaching } from './useAttaching'

type Attachment = Schemas['Attachment']

const MOST_PAGES = 24

const pageOf = (attachment: Attachment, page: number) => `/api/attachments/${attachment.id}/pages/${page}`

/** Files that came with what was said: each can be looked at and downloaded. */
export function Attachments({ attachments }: { attachments: readonly Attachment[] }) {
  const [open, setOpen] = useState<Attachment | null>(null)
  if (!attachments.length) return null
  return (
    <>
      <ul aria-label="Attached files" className="mt-1 flex flex-col gap-1 text-list">
        {attachments.map((each) => (
          <li key={each.id} className="flex items-start gap-2">
            <AttachedFile attachment={each} onOpen={() => setOpen(each)} />
          </li>
        ))}
      </ul>
      {open && <Look attachment={open} onClose={() => setOpen(null)} />}
    </>
  )
}

/** One of them: its first page, what it is called, what is to be minded in it. */
export function AttachedFile({ attachment, onOpen }: { attachment: Attachment; onOpen: () => void }) {
  return (
    <>
      <span className="flex size-9 shrink-0 items-center justify-center border border-line bg-surface">
        {attachment.pages > 0 ? (
          <img src={pageOf(attachment, 0)} alt="" className="max-h-full max-w-full" loading="lazy" />
        ) : (
          <FileText size={16} aria-hidden className="text-second" />
        )}
      </span>
      <span className="min-w-0 flex-1 self-center leading-snug">
        <button type="button" onClick={onOpen} className="text-left break-all text-plum underline">
          {attachment.name}
        </button>{' '}
        <span className="whitespace-nowrap text-second">
          {bytesText(attachment.size_bytes)}
          {attachment.pages > 1 && `, ${attachment.pages} pages`}
        </span>
        {attachment.waiting && <span className="block text-second">being looked into …</span>}
        {attachment.trouble && <span className="block text-ochre">{attachment.trouble}</span>}
      </span>
      <IconButton
        label={`Download ${attachment.name}`}
        icon={<Download size={15} />}
        onClick={() => download(`/api/attachments/${attachment.id}/download`)}
      />
    </>
  )
}

/** A file larger: its pages, or what it says. */
export function Look({ attachment, onClose }: { attachment: Attachment; onClose: () => void }) {
  const pages = Math.min(attachment.pages, MOST_PAGES)
  const found = useQuery({
    queryKey: ['attached-preview', attachment.id],
    queryFn: () =>
      unwrapAs<Schemas['FilePreview']>(
        api.GET('/api/attachments/{attachment_id}/preview', {
          params: { path: { attachment_id: attachment.id } },
        }),
      ),
    enabled: pages === 0,
    staleTime: Infinity,
  })
  const more = attachment.pages - pages
  return (
    <Dialog
      wide
      open
      title={attachment.name}
      about={`${bytesText(attachment.size_bytes)}, SHA-256 ${attachment.sha256.slice(0, 12)}…`}
      onClose={onClose}
    >
      {attachment.trouble && <p className="mb-3 text-ochre">{attachment.trouble}</p>}
      <div className="flex flex-wrap gap-3">
        {Array.from({ length: pages }, (_, page) => (
          <img
            key={page}
            src={`${pageOf(attachment, page)}?large=true`}
            alt={`Page ${page + 1}`}
            loading="lazy"
            className={`min-h-[120px] max-w-full border border-line object-contain ${pages > 1 ? 'max-h-[320px]' : 'max-h-[70vh]'}`}
          />
        ))}
      </div>
      {more > 0 && <p className="mt-2 text-second">{more} more pages are in the file.</p>}
      <ErrorNote error={found.error} again={() => void found.refetch()} />
      {pages === 0 && found.isPending && <Loading what="the file" />}
      {found.data && found.data.trouble !== attachment.trouble && <p>{found.data.trouble}</p>}
      <div className="flex flex-col gap-6">
        {found.data?.parts.map((part, place) => (
          <FilePart key={place} part={part} cells={found.data.what !== 'Document'} />
        ))}
      </div>
      <Button className="mt-4" onClick={() => download(`/api/attachments/${attachment.id}/download`)}>
        Download
      </Button>
    </Dialog>
  )
}

/** Files that are being added, until what they belong to is said. */
export function AttachedDraft({ attaching }: { attaching: Attaching }) {
  const { there, coming } = attaching
  if (!there.length && !coming.length) return null
  return (
    <ul aria-label="Files to go with it" className="mt-1 flex flex-col gap-1 text-list">
      {there.map((each) => (
        <li key={each.id} className="flex items-center gap-2">
          <span className="min-w-0 break-all">{each.name}</span>
          <span className="whitespace-nowrap text-second">{bytesText(each.size_bytes)}</span>
          <IconButton
            label={`Take ${each.name} back`}
            icon={<X size={15} />}
            onClick={() => attaching.takeBack(each)}
          />
        </li>
      ))}
      {coming.map((each) => (
        <li key={each.key}>
          <span className="flex items-center gap-2">
            <span className="min-w-0 break-all">{each.file.name}</span>
            {each.error ? (
              <>
                <Button small onClick={() => attaching.again(each)}>
                  Try again
                </Button>
                <IconButton
                  label={`Leave ${each.file.name} out`}
                  icon={<X size={15} />}
                  onClick={() => attaching.leave(each)}
                />
              </>
            ) : (
              <span role="status" className="text-second">
                being sent, {bytesText(each.file.size)} …
              </span>
            )}
          </span>
          {each.error !== null && <ErrorNote error={each.error} />}
        </li>
      ))}
    </ul>
  )
}
