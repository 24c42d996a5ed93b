import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { GuestPaper, PageTurner } from './GuestPages'
import type { Entered } from './guestVisit'

export type File = Schemas['GuestFile']

/** What is gone through one by one. */
export interface Leaf {
  revision_id: string
  number: string
  revision: string
  title: string
}

interface Props {
  visit: Entered
  /** What it is all of, for the head. */
  of: string
  documents: readonly Leaf[]
  /** Where the files are asked for, and one of them. */
  address: string
  read: (revisionId: string) => Promise<File>
  at: number
  /** Opens the document at a place of the list; -1 goes back to the list. */
  onOpen: (place: number) => void
  onTake: ((revisionId: string) => void) | undefined
}

/** One file of several, looked at: nothing is drawn on it here. */
export function GuestFile({ visit, of, documents, address, read, at, onOpen, onTake }: Props) {
  const [page, setPage] = useState(0)
  const revisionId = documents[at]?.revision_id ?? ''
  const file = useQuery({
    queryKey: ['guest', 'file', visit.guest, revisionId],
    queryFn: () => read(revisionId),
    retry: false,
  })
  return (
    <main className="flex h-dvh flex-col">
      <Head of={of} documents={documents} at={at} onOpen={onOpen} />
      <div className="relative min-h-0 min-w-0 flex-1 touch-none">
        {file.data ? (
          <GuestPaper
            visit={visit}
            address={`${address}/${revisionId}/tiles`}
            pages={file.data.pages}
            page={page}
            drawn={file.data}
            keep={revisionId}
          />
        ) : (
          !isLost(file) && <Loading what="the sheet" />
        )}
        <ErrorNote error={file.error} again={() => void file.refetch()} />
      </div>
      <footer className="flex shrink-0 flex-wrap items-center gap-2 border-t border-line px-3 py-1.5">
        <Turner count={documents.length} at={at} onOpen={onOpen} />
        <PageTurner count={file.data?.pages.length ?? 0} page={page} onPage={setPage} />
        {onTake && file.data && (
          <Button small className="ml-auto" onClick={() => onTake(revisionId)}>
            Download it, {bytesText(file.data.size_bytes)}
          </Button>
        )}
      </footer>
    </main>
  )
}

function Turner({ count, at, onOpen }: { count: number; at: number; onOpen: (place: number) => void }) {
  if (count < 2) return null
  return (
    <>
      <Button small why={at === 0 && 'This is the first document.'} onClick={() => onOpen(at - 1)}>
        Document before
      </Button>
      <Button small why={at === count - 1 && 'This is the last document.'} onClick={() => onOpen(at + 1)}>
        Document after
      </Button>
    </>
  )
}

function Head({ of, documents, at, onOpen }: Pick<Props, 'of' | 'documents' | 'at' | 'onOpen'>) {
  const document = documents[at]
  if (!document) return null
  return (
    <header className="flex shrink-0 items-center gap-3 border-b border-line px-3 py-1.5">
      <Logo className="size-7 shrink-0 max-md:hidden" />
      <div className="min-w-0 flex-1">
        <h1 className="text-read font-semibold">
          <span className="code break-all">{document.number}</span>{' '}
          <span className="code">{document.revision}</span>
        </h1>
        <p className="truncate text-list text-second" title={document.title}>
          {document.title}
        </p>
      </div>
      <p className="shrink-0 text-right text-list text-second max-md:hidden">
        <span className="code">{of}</span>, {at + 1} of {documents.length}
      </p>
      <Button small onClick={() => onOpen(-1)}>
        Back to the list
      </Button>
    </header>
  )
}
