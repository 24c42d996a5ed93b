import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { VerdictContext, VerdictMark } from '../../ui/Stamp'
import type { GuestSent } from './guestVisit'

type Document = GuestSent['documents'][number]

interface Props {
  it: GuestSent
  /** Nothing of a void one is given away any more. */
  onLook: ((place: number) => void) | undefined
  /** By its address below the transmittal's. */
  onTake: ((address: string) => void) | undefined
}

/** What was sent, each with a look and a download of its own; on a phone each is a block. */
export function GuestSentList({ it, onLook, onTake }: Props) {
  return (
    <VerdictContext.Provider value={it.verdict_set}>
      <ul
        aria-label="Documents"
        className="border border-line bg-surface md:grid md:grid-cols-[auto_auto_minmax(0,1fr)_auto_auto]"
      >
        {it.documents.map((document, place) => (
          <li
            key={document.revision_id}
            className="items-center gap-x-3 gap-y-1 border-b border-line/60 px-3 py-1.5 last:border-b-0 max-md:flex max-md:flex-wrap md:col-span-full md:grid md:grid-cols-subgrid"
          >
            <span className="code break-all">{document.number}</span>
            <span className="code font-bold">{document.revision}</span>
            <span className="max-md:w-full">
              {document.title}
              {GONE.includes(document.standing.kind) && (
                <span className="font-semibold text-brick"> {olderWords(document)}</span>
              )}
              {onTake && <Along document={document} onTake={onTake} />}
            </span>
            <span className="max-md:flex-1">
              {document.verdict && <VerdictMark code={document.verdict} spelled />}
            </span>
            <span className="flex items-center justify-end gap-2">
              {it.files_taken.includes(document.revision_id) && (
                <span className="text-note text-spruce">downloaded</span>
              )}
              {onLook && (
                <Button small aria-label={`Look at ${document.number}`} onClick={() => onLook(place)}>
                  Look
                </Button>
              )}
              {onTake && (
                <Button
                  small
                  aria-label={`Download ${document.number}`}
                  onClick={() => onTake(`files/${document.revision_id}/file`)}
                >
                  Download
                </Button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </VerdictContext.Provider>
  )
}

const GONE = ['superseded', 'withdrawn']

/** Only what came after it was sent came since. */
function olderWords({ standing, older_then: then }: Document): string {
  return then ? `(when this was sent already: ${standing.words})` : `(since: ${standing.words})`
}

/** What goes with it, each to be taken by itself. */
function Along({ document, onTake }: { document: Document; onTake: (address: string) => void }) {
  const there = document.along.filter((each) => each.size_bytes > 0)
  if (!there.length) return null
  return (
    <span className="mt-0.5 flex flex-wrap gap-1">
      {there.map((each) => (
        <Button
          key={each.place}
          small
          aria-label={`${each.words} of ${document.number}, download`}
          title={`${each.file}, ${bytesText(each.size_bytes)}`}
          onClick={() => onTake(`along/${each.place}`)}
        >
          {each.words}
        </Button>
      ))}
    </span>
  )
}
