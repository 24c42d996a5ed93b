import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { carried, extent } from '../../domain/drawing'
import { bytesText } from '../../domain/bytes'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { MarkShapes } from '../../ui/MarkShapes'
import { ErrorNote } from '../../ui/Notes'
import { By } from '../../ui/Said'
import type { View } from '../../ui/TileView'
import { GuestPaper, PageTurner } from './GuestPages'
import { asGuest, type Entered, type Part } from './guestVisit'

type Document = Part['documents'][number]
type Mark = Schemas['Mark']

const NOBODY_HOLDS = new Map<string, never>()

interface Props {
  visit: Entered
  part: Part
  document: Document
}

/** A sheet that goes round, with its ink: looked at, and taken away as it came. */
export function GuestSheet({ visit, part, document }: Props) {
  const [page, setPage] = useState(0)
  const [chosen, setChosen] = useState('')
  const view = useRef<View>(null)
  const marks = useQuery({
    queryKey: ['guest', 'marks', visit.guest, document.revision_id],
    queryFn: () =>
      unwrapAs<Schemas['GuestMarks']>(
        api.GET('/api/guest/review/{revision_id}/marks', {
          params: { path: { revision_id: document.revision_id } },
          ...asGuest(visit),
        }),
      ),
  })
  const ink = marks.data?.marks ?? []
  function goTo(mark: Mark) {
    setChosen(mark.id)
    setPage(mark.page)
    const to = document.pages[mark.page]?.to_view
    if (!to) return
    const [left, upper, right, lower] = extent(carried(mark.points, to))
    view.current?.goTo([(left + right) / 2, (upper + lower) / 2])
  }
  return (
    <div className="flex min-h-0 flex-1 max-md:flex-col">
      <div className="relative min-h-0 min-w-0 flex-1 touch-none">
        <Paper
          visit={visit}
          part={part}
          document={document}
          page={page}
          marks={ink}
          chosen={chosen}
          view={view}
        />
      </div>
      <aside
        aria-label="Document"
        className="w-[300px] shrink-0 overflow-auto border-l border-line px-3 py-2 text-list max-md:max-h-[24dvh] max-md:w-full max-md:border-t max-md:border-l-0"
      >
        <About visit={visit} document={document} />
        <div className="mt-2">
          <PageTurner count={document.pages.length} page={page} onPage={setPage} />
        </div>
        <ErrorNote error={marks.error} again={() => void marks.refetch()} />
        <InkList marks={ink} chosen={chosen} onChoose={goTo} />
      </aside>
    </div>
  )
}

interface PaperProps extends Props {
  page: number
  marks: Mark[]
  chosen: string
  view: React.Ref<View>
}

function Paper({ visit, part, document, page, marks, chosen, view }: PaperProps) {
  const shape = document.pages[page]
  return (
    <GuestPaper
      visit={visit}
      address={`/api/guest/review/${document.revision_id}/tiles`}
      pages={document.pages}
      page={page}
      drawn={part}
      keep={document.revision_id}
      view={view}
    >
      {shape && (
        <MarkShapes
          marks={marks.filter((each) => each.page === page)}
          toView={shape.to_view}
          drawn={{ with: part.drawn_with, perMm: shape.width_pt / shape.width_mm }}
          chosen={new Set([chosen])}
          peeked=""
          held={NOBODY_HOLDS}
        />
      )}
    </GuestPaper>
  )
}

function About({ visit, document }: Omit<Props, 'part'>) {
  return (
    <>
      <h2 className="text-read font-semibold">
        <span className="code break-all">{document.number}</span>{' '}
        <span className="code">{document.revision}</span>
      </h2>
      <p>{document.title}</p>
      {document.musts.length > 0 && (
        <p className="mt-1 font-semibold text-brick">
          {document.musts.length === 1 ? 'Comment' : 'Comments'} {document.musts.join(', ')} of this review
          must be done before it can be used.
        </p>
      )}
      <Button
        small
        className="mt-1.5"
        onClick={() => download(`/api/guest/review/${document.revision_id}/file`, { guest: visit.guest })}
      >
        Download it, {bytesText(document.size_bytes)}
      </Button>
    </>
  )
}

interface InkProps {
  marks: Mark[]
  chosen: string
  onChoose: (mark: Mark) => void
}

function InkList({ marks, chosen, onChoose }: InkProps) {
  return (
    <section aria-label="Marks" className="mt-3 border-t border-line pt-2">
      <p className="mb-1 text-second">
        {marks.length ? `${counted(marks.length, 'mark')} in ink` : 'No marks in ink.'}
      </p>
      {marks.map((mark) => (
        <button
          key={mark.id}
          type="button"
          aria-current={mark.id === chosen}
          className="mb-1 block min-h-6 w-full border-l-2 border-line pl-2 text-left hover:border-plum aria-[current=true]:border-plum aria-[current=true]:bg-plum-tint"
          onClick={() => onChoose(mark)}
        >
          <span className="block text-note text-second">
            <By author={mark.author} />
            {mark.pin_number !== null && ` · pin ${mark.pin_number}`} · page {mark.page + 1}
          </span>
          {mark.text || mark.measured?.words || <i className="text-second">no text</i>}
        </button>
      ))}
    </section>
  )
}
