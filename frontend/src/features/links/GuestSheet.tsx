import { useRef, useState, type RefObject } from 'react'

import type { Schemas } from '../../api/client'
import { download } from '../../api/download'
import type { Affine } from '../../domain/affine'
import { carried, extent } from '../../domain/drawing'
import { bytesText } from '../../domain/bytes'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { By } from '../../ui/Said'
import type { View } from '../../ui/TileView'
import { GuestPaper, PageTurner } from './GuestPages'
import type { Entered, Part } from './guestVisit'
import { GuestDrawing } from './pens/GuestDrawing'
import { GuestPens, useGuestHand, type GuestPen } from './pens/GuestPens'
import { SayIt } from './pens/SayIt'
import { useGuestInk, type GuestInk } from './useGuestInk'

type Document = Part['documents'][number]
type Mark = Schemas['Mark']

interface Props {
  visit: Entered
  part: Part
  document: Document
}

/** A sheet that goes round, with its ink: looked at, marked where that is asked, and taken away as it came. */
export function GuestSheet({ visit, part, document }: Props) {
  const [page, setPage] = useState(0)
  const [chosen, setChosen] = useState('')
  const [drawn, setDrawn] = useState<Schemas['NewMark'] | null>(null)
  const view = useRef<View>(null)
  const { marks, draw, remove } = useGuestInk(visit, document.revision_id)
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
          onDrawn={setDrawn}
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
        <ErrorNote error={remove.error} />
        <InkList
          marks={ink}
          mine={marks.data?.mine ?? []}
          chosen={chosen}
          onChoose={goTo}
          onRemove={(mark) => remove.mutate(mark)}
        />
      </aside>
      {drawn && (
        <Saying drawn={drawn} draw={draw} forReview={marks.data?.for_review} onClose={() => setDrawn(null)} />
      )}
    </div>
  )
}

interface SayingProps {
  drawn: Schemas['NewMark']
  draw: GuestInk['draw']
  forReview: boolean | undefined
  onClose: () => void
}

/** What a mark says. It stays as it is typed until the mark is there. */
function Saying({ drawn, draw, forReview, onClose }: SayingProps) {
  return (
    <SayIt
      about={`It is in ink at once, with your name, for ${forReview ? 'the people of the review' : 'everybody who sees the sheet'}.`}
      onClose={() => {
        draw.reset()
        onClose()
      }}
      busy={draw.isPending}
      error={draw.error}
      onSay={(text) => draw.mutate({ drawn, text }, { onSuccess: onClose })}
    />
  )
}

interface PaperProps extends Props {
  page: number
  marks: Mark[]
  chosen: string
  view: RefObject<View | null>
  onDrawn: (mark: Schemas['NewMark']) => void
}

const UPRIGHT: Affine = [1, 0, 0, 1, 0, 0]

function Paper({ visit, part, document, page, marks, chosen, view, onDrawn }: PaperProps) {
  const shape = document.pages[page]
  const [pen, setPen] = useState<GuestPen | null>(null)
  const hand = useGuestHand({
    ...{ pen, view, page, toView: shape?.to_view ?? UPRIGHT },
    onDrawn: (mark) => {
      onDrawn(mark)
      setPen(null)
    },
  })
  const drawn = { with: part.drawn_with, perMm: shape ? shape.width_pt / shape.width_mm : 1 }
  return (
    <div className="size-full" {...hand.pointers}>
      <GuestPaper
        visit={visit}
        address={`/api/guest/review/${document.revision_id}/tiles`}
        pages={document.pages}
        page={page}
        drawn={part}
        keep={document.revision_id}
        view={view}
        drawing={hand.drawing}
      >
        {shape && (
          <GuestDrawing
            {...{ marks, page, chosen, pen, drawn }}
            toView={shape.to_view}
            rubber={hand.rubber}
          />
        )}
      </GuestPaper>
      {shape && part.marking && <GuestPens pen={pen} onPen={setPen} />}
    </div>
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
  /** Those that can be taken away. */
  mine: readonly string[]
  onRemove: (mark: Mark) => void
  chosen: string
  onChoose: (mark: Mark) => void
}

function InkList({ marks, mine, chosen, onChoose, onRemove }: InkProps) {
  return (
    <section aria-label="Marks" className="mt-3 border-t border-line pt-2">
      <p className="mb-1 text-second">
        {marks.length ? `${counted(marks.length, 'mark')} in ink` : 'No marks in ink.'}
      </p>
      {marks.map((mark) => (
        <div key={mark.id} className="mb-1">
          <button
            type="button"
            aria-current={mark.id === chosen}
            className="block min-h-6 w-full border-l-2 border-line pl-2 text-left hover:border-plum aria-[current=true]:border-plum aria-[current=true]:bg-plum-tint"
            onClick={() => onChoose(mark)}
          >
            <span className="block text-note text-second">
              <By author={mark.author} />
              {mark.pin_number !== null && ` · pin ${mark.pin_number}`} · page {mark.page + 1}
            </span>
            {mark.text || mark.measured?.words || <i className="text-second">no text</i>}
          </button>
          {mark.id === chosen && mine.includes(mark.id) && (
            <Button small look="stop" className="mt-1" onClick={() => onRemove(mark)}>
              Take it away
            </Button>
          )}
        </div>
      ))}
    </section>
  )
}
