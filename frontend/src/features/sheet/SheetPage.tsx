import { useQuery } from '@tanstack/react-query'
import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useEffect, useRef, useState, type RefObject } from 'react'

import type { Schemas } from '../../api/client'
import { useLookedAt } from '../../api/lookedAt'
import { inverse, type Affine } from '../../domain/affine'
import { carried, centre } from '../../domain/drawing'
import { measuredWords } from '../../domain/measure'
import { boxOnPage, surroundings } from '../../domain/pageBox'
import { endFirstLook } from '../../ui/firstLook'
import { ErrorNote, Loading } from '../../ui/Notes'
import { sheetAfter } from '../../ui/sheetList'
import { Beside, type BesideWhat } from './Beside'
import { FilePage } from './FilePage'
import { fits, NO_FILTER } from './marks/markFilter'
import { useLayers } from './LayersPanel'
import { MarkList } from './marks/MarkList'
import type { Drawn } from './marks/MarkShapes'
import { KIND_WORDS } from './marks/KindIcon'
import { PenRoll } from './marks/PenRoll'
import { PenStrip } from './marks/PenStrip'
import { Caught, FoundBox, Overlay, Regions, Telling } from './SheetOverlay'
import { sheetQuery, useNextAhead } from './sheetQuery'
import { SheetView, type View } from './SheetView'
import { TitleBlock } from './TitleBlock'
import { useActs } from './marks/useActs'
import { useHand } from './marks/useHand'
import { useMarks, type Mark } from './marks/useMarks'
import { usePens } from './marks/usePens'
import { scalesOf, useScales } from './measure/useScales'
import { useSheetKeys } from './useSheetKeys'
import { useSnap } from './measure/useSnap'
import type { Hit } from './useSheetWords'
import { useWays } from './useWays'
import { WayShapes } from './WayShapes'

type Sheet = Schemas['Sheet']

const UPRIGHT: Affine = [1, 0, 0, 1, 0, 0]
const NO_PENS: never[] = []

export function SheetPage() {
  const { revisionId } = useParams({ from: '/frame/sheet/$revisionId' })
  const sheet = useQuery(sheetQuery(revisionId))
  useLookedAt('document', sheet.data?.document_id)
  // Where there is no view to take it over.
  const viewless = sheet.error !== null || sheet.data?.pages.length === 0
  useEffect(() => {
    if (viewless) endFirstLook()
    return endFirstLook
  }, [viewless])
  if (sheet.error) return <ErrorNote error={sheet.error} again={() => void sheet.refetch()} />
  if (!sheet.data) return <Loading what="the sheet" />
  if (!sheet.data.pages.length) return <FilePage sheet={sheet.data} />
  return <OpenSheet key={revisionId} sheet={sheet.data} />
}

/** The sheet takes the whole window; pens below, marks at the right, the sheet's identity at the upper left. */
function OpenSheet({ sheet }: { sheet: Sheet }) {
  const marks = useMarks(sheet.revision_id)
  const acts = useActs(marks)
  const pens = usePens(sheet.project_id)
  const navigate = useNavigate()
  const view = useRef<View>(null)
  const asked = useSearch({ from: '/frame/sheet/$revisionId' })
  const [page, setPage] = useState(Math.min(asked.page ?? 0, Math.max(0, sheet.pages.length - 1)))
  const [filter, setFilter] = useState(NO_FILTER)
  const [listOpen, setListOpen] = useState(true)
  const [rollOpen, setRollOpen] = useState(false)
  const [beside, setBeside] = useState<BesideWhat>(null)
  const layers = useLayers(sheet.revision_id)
  const [off, setOff] = useState<ReadonlySet<number> | null>(null)
  const scales = useScales(sheet.revision_id)
  const ways = useWays(sheet, page, setPage)
  useNextAhead(sheet.document_id)

  const shape = sheet.pages[page]
  const toView = (shape?.to_view as Affine | undefined) ?? UPRIGHT
  const drawn: Drawn = {
    with: sheet.drawn_with,
    perMm: shape ? shape.width_pt / shape.width_mm : 72 / 25.4,
  }
  const all = marks.list.data ?? []
  const shown = all.filter((mark) => fits(mark, filter))
  const here = shown.filter((mark) => mark.page === page)
  const roll = pens.rolls.data?.own ?? NO_PENS

  const snap = useSnap(sheet.revision_id, page, toView, view)
  const hand = useHand({
    revisionId: sheet.revision_id,
    page,
    marks: here,
    toView,
    perMm: drawn.perMm,
    view,
    acts,
    snap,
    changing: marks.change.isPending,
    first: asked.mark,
    onDrawn: (drawn) => {
      setListOpen(true)
      // What was drawn must not vanish behind a filter that was set before.
      if (!drawn.every((mark) => fits(mark, filter))) setFilter(NO_FILTER)
    },
  })
  const chosen = new Set(hand.chosen)
  const valueNow =
    hand.pen && hand.drawing
      ? measuredWords(
          hand.pen.kind,
          carried(hand.drawing, inverse(toView)),
          scalesOf(scales, page).scales,
          1 / drawn.perMm,
          scalesOf(scales, page).units,
        )
      : ''
  const { found, show, forget } = useSought(sheet, page, setPage, view)

  function choose(id: string) {
    if (hand.chosen.length === 1 && chosen.has(id)) return hand.choose([])
    hand.choose([id])
    const mark = all.find((each) => each.id === id)
    if (!mark) return
    const matrix = sheet.pages[mark.page]?.to_view as Affine | undefined
    setPage(mark.page)
    view.current?.goTo(centre(carried(mark.points, matrix ?? toView)))
  }

  function penOf(mark: Mark) {
    const rolls = pens.rolls.data
    if (!rolls) return
    const words = mark.kind === 'stamp' ? mark.text : ''
    const name = mark.label || words.slice(0, 40) || `${KIND_WORDS[mark.kind]}, ${mark.look.colour}`
    const pen = {
      name,
      kind: mark.kind,
      look: mark.look,
      label: mark.label,
      text: words,
      discipline: mark.discipline,
      ink: '',
    }
    pens.keep(false, (now) => [...now, pen])
    setRollOpen(true)
  }

  /** The next outline that is drawn is cut out of an area. */
  function cutHole(mark: Mark) {
    hand.take(
      { name: 'Hole', kind: 'area', look: mark.look, label: '', text: '', discipline: '', ink: '' },
      (hole) => {
        acts.change([
          {
            mark,
            to: ({ points, rings }) => ({
              points: [...points, ...hole],
              rings: [...(rings.length ? rings : [points.length]), hole.length],
            }),
          },
        ])
      },
    )
  }

  /** Along the list that the sheet was opened from. */
  function goAlong(step: number) {
    const next = sheetAfter(sheet.document_id, step)
    if (next) void navigate({ to: '/sheet/$revisionId', params: { revisionId: next.revisionId } })
  }

  /** With the revision before; of the only one, with itself, until another sheet is chosen there. */
  function compare() {
    const place = sheet.revisions.findIndex((each) => each.id === sheet.revision_id)
    const other = (sheet.revisions[place - 1] ?? sheet.revisions[place + 1])?.id ?? sheet.revision_id
    const [first, second] = place > 0 ? [other, sheet.revision_id] : [sheet.revision_id, other]
    void navigate({ to: '/compare/$before/$after', params: { before: first, after: second } })
  }

  const ink = () => {
    const mine = all.filter((mark) => !mark.inked_at)
    if (mine.length) marks.ink.mutate(mine.map((mark) => mark.id))
  }

  useSheetKeys({
    hand,
    acts,
    pens: roll,
    mayMark: sheet.may_mark,
    ink,
    revision: (step) => {
      const place = sheet.revisions.findIndex((each) => each.id === sheet.revision_id)
      const next = sheet.revisions[place + step]
      if (next) void navigate({ to: '/sheet/$revisionId', params: { revisionId: next.id } })
    },
    fit: () => view.current?.fit(),
    zoom: (factor) => view.current?.zoomBy(factor),
    find: () => setBeside('find'),
    compare,
    turn: () => view.current?.turn(),
    sheet: goAlong,
    measure: () => setBeside(beside === 'measure' ? null : 'measure'),
    chooseAll: () => hand.choose(here.map((mark) => mark.id)),
  })

  return (
    <div className="flex h-full">
      <div className="relative min-w-0 flex-1 touch-none" {...hand.pointers}>
        <SheetView
          sheet={sheet}
          page={page}
          drawing={hand.gesture.kind !== 'idle'}
          off={off}
          view={view}
          onOpen={() => found && view.current?.show(surroundings(found))}
        >
          {found && <FoundBox box={found} />}
          {!hand.pen && <WayShapes ways={ways} toView={toView} />}
          {beside === 'measure' && <Regions scales={scalesOf(scales, page).scales} toView={toView} />}
          <Overlay hand={hand} marks={here} toView={toView} drawn={drawn} value={valueNow} />
          {hand.pen && snap.caught && <Caught at={snap.caught} />}
        </SheetView>
        <TitleBlock
          sheet={sheet}
          page={page}
          onPage={setPage}
          onFind={() => setBeside(beside === 'find' ? null : 'find')}
          onCompare={compare}
          onAlong={goAlong}
          onLayers={layers.length ? () => setBeside(beside === 'layers' ? null : 'layers') : null}
        />
        <Beside
          what={beside}
          sheet={sheet}
          page={page}
          scales={scales}
          hand={hand}
          ways={ways}
          layers={layers}
          off={off}
          onOff={setOff}
          onShow={show}
          onRegion={(box) => view.current?.show(surroundings(boxOnPage(box, toView)))}
          onClose={() => {
            setBeside(null)
            forget()
          }}
        />
        <Telling hand={hand} />
        {rollOpen && pens.rolls.data && (
          <PenRoll
            rolls={pens.rolls.data}
            pens={pens}
            inks={sheet.drawn_with.inks}
            hand={hand}
            onClose={() => setRollOpen(false)}
          />
        )}
        <PenStrip
          pens={roll}
          inks={sheet.drawn_with.inks}
          hand={hand}
          acts={acts}
          mayMark={sheet.may_mark}
          onFit={() => view.current?.fit()}
          onTurn={() => view.current?.turn()}
          onZoom={(by) => view.current?.zoomBy(by)}
          listOpen={listOpen}
          onList={() => setListOpen(!listOpen)}
          rollOpen={rollOpen}
          onRoll={() => setRollOpen(!rollOpen)}
          measuring={beside === 'measure'}
          onMeasure={() => setBeside(beside === 'measure' ? null : 'measure')}
        />
      </div>
      {listOpen && (
        <MarkList
          marks={shown}
          all={all}
          filter={filter}
          onFilter={setFilter}
          service={marks}
          acts={acts}
          revisionId={sheet.revision_id}
          documentId={sheet.document_id}
          revision={sheet.revision}
          superseded={sheet.superseded}
          inks={sheet.drawn_with.inks}
          mayMark={sheet.may_mark}
          chosen={chosen}
          fresh={hand.fresh}
          onChoose={choose}
          onInk={ink}
          onPen={penOf}
          onHole={cutHole}
        />
      )}
    </div>
  )
}

/** The place that was searched for, from the address or on the sheet. */
function useSought(sheet: Sheet, page: number, onPage: (page: number) => void, view: RefObject<View | null>) {
  const asked = useSearch({ from: '/frame/sheet/$revisionId' })
  const [hit, setHit] = useState<Hit | null>(null)
  const matrixOf = (place: number) => (sheet.pages[place]?.to_view as Affine | undefined) ?? UPRIGHT
  const sought = hit ?? (asked.at ? { page: asked.page ?? 0, box: asked.at } : null)
  return {
    found: sought && page === sought.page ? boxOnPage(sought.box, matrixOf(page)) : null,
    forget: () => setHit(null),
    show: (next: Hit) => {
      setHit(next)
      onPage(next.page)
      view.current?.show(surroundings(boxOnPage(next.box, matrixOf(next.page))))
    },
  }
}
