import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { isLost } from '../../api/fetched'
import { bytesText } from '../../domain/bytes'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { Loading } from '../../ui/Notes'
import { Closed, type RoomProps } from './GuestDocument'
import { GuestFile, type File, type Leaf } from './GuestFile'
import { asGuest, type Entered } from './guestVisit'

type List = Schemas['SharedList']
type Line = Schemas['SharedLine']
type Revision = Schemas['SharedRevision']

const PAGE = 100

/** A folder, a drawing set or a kept list by a link: its documents as they are now. */
export function GuestShared({ visit, onClosed }: RoomProps) {
  const [at, setAt] = useState(-1)
  const found = useInfiniteQuery({
    queryKey: ['guest', 'list', visit.guest],
    queryFn: ({ pageParam }) =>
      unwrapAs<List>(
        api.GET('/api/guest/list', {
          params: { query: { start: pageParam, limit: PAGE } },
          ...asGuest(visit),
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page, all) => (all.length * PAGE < page.total ? all.length * PAGE : undefined),
    retry: false,
  })
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  const it = found.data?.pages[0]
  if (!it) return <Loading what="the documents" />
  const lines = found.data?.pages.flatMap((page) => page.lines) ?? []
  const leaves = lines.flatMap(leavesOf)
  const take = (id: string) => download(`/api/guest/list/${id}/file`, { guest: visit.guest })
  const taken = it.allows.includes('download') ? take : undefined
  if (leaves[at])
    return (
      <GuestFile
        key={leaves[at].revision_id}
        visit={visit}
        of={it.name}
        documents={leaves}
        address="/api/guest/list"
        read={(id) => readFile(visit, id)}
        at={at}
        onOpen={setAt}
        onTake={taken}
      />
    )
  return (
    <main className="mx-auto max-w-[960px] px-4 py-6 md:px-6 md:py-8">
      <Head it={it} />
      <Documents lines={lines} leaves={leaves} onLook={setAt} onTake={taken} />
      {found.hasNextPage && (
        <Button className="mt-3" busy={found.isFetchingNextPage} onClick={() => void found.fetchNextPage()}>
          Show {Math.min(PAGE, it.total - lines.length)} more
        </Button>
      )}
    </main>
  )
}

function readFile(visit: Entered, revisionId: string): Promise<File> {
  return unwrap(
    api.GET('/api/guest/list/{revision_id}', {
      params: { path: { revision_id: revisionId } },
      ...asGuest(visit),
    }),
  ) as Promise<File>
}

function leavesOf({ number, title, revisions }: Line): Leaf[] {
  return revisions.map((each) => ({ revision_id: each.id, number, revision: each.code, title }))
}

function Head({ it }: { it: List }) {
  return (
    <header className="mb-5 flex items-start justify-between gap-4">
      <div className="min-w-0">
        <p className="text-second">{it.project}</p>
        <h1 className="text-title font-semibold break-words">{it.name}</h1>
        <p className="text-read">
          A {it.kind_words} of {counted(it.total, 'document')}, as it is now. From {it.given_by.name}{' '}
          <span className="code">{it.given_by.company}</span>.
        </p>
        <p className="text-second">You are here as {it.guest}.</p>
        {it.capped && <p className="text-ochre">There are more than a link shows. Ask for a smaller list.</p>}
      </div>
      <Logo className="size-9 shrink-0" />
    </header>
  )
}

interface DocumentsProps {
  lines: readonly Line[]
  leaves: readonly Leaf[]
  onLook: (place: number) => void
  onTake: ((revisionId: string) => void) | undefined
}

/** The latest of each; where another is in force, it is said, and that one is there too. */
function Documents({ lines, leaves, onLook, onTake }: DocumentsProps) {
  if (!lines.length) return <p className="text-second">There is nothing in it now.</p>
  const placeOf = (id: string) => leaves.findIndex((each) => each.revision_id === id)
  return (
    <ul aria-label="Documents" className="border border-line bg-surface">
      {lines.map((line) => (
        <li key={line.number} className="border-b border-line/60 px-3 py-1.5 last:border-b-0">
          <p>
            <span className="code break-all">{line.number}</span> {line.title}
          </p>
          {line.revisions.map((each) => (
            <div key={each.id} className="flex flex-wrap items-center gap-x-3 gap-y-1">
              <span className="code font-bold">{each.code}</span>
              <span className={each.in_force || line.revisions.length === 1 ? 'flex-1' : 'flex-1 text-ochre'}>
                {wordsOf(each, line)}
              </span>
              <Button
                small
                aria-label={`Look at ${line.number} ${each.code}`}
                onClick={() => onLook(placeOf(each.id))}
              >
                Look
              </Button>
              {onTake && (
                <Button
                  small
                  aria-label={`Download, ${bytesText(each.size_bytes)}: ${line.number} ${each.code}`}
                  onClick={() => onTake(each.id)}
                >
                  Download, {bytesText(each.size_bytes)}
                </Button>
              )}
            </div>
          ))}
        </li>
      ))}
    </ul>
  )
}

function wordsOf(revision: Revision, line: Line): string {
  if (revision.in_force) return `status ${revision.status}, in force`
  const beside = line.revisions.some((each) => each.in_force)
  return `status ${revision.status}, ${beside ? 'the latest; not to be worked from yet' : 'not in force'}`
}
