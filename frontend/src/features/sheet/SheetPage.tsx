import { useQuery } from '@tanstack/react-query'
import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { inverse, type Affine, type Point } from '../../domain/affine'
import { BULGE } from '../../domain/cloudPath'
import {
  carried,
  centre,
  drag,
  press,
  rectangle,
  release,
  type Gesture,
  type Stroke,
} from '../../domain/drawing'
import { Button } from '../../ui/Button'
import { useKeys } from '../../ui/keys'
import { ErrorNote, Loading } from '../../ui/Notes'
import { MarkList } from './MarkList'
import { MarkShapes, Rubber } from './MarkShapes'
import { PenStrip } from './PenStrip'
import { SheetView, type View } from './SheetView'
import { TitleBlock } from './TitleBlock'
import { useMarks, type Mark } from './useMarks'

type Sheet = Schemas['Sheet']

const UPRIGHT: Affine = [1, 0, 0, 1, 0, 0]
const STEP_PT = (1 * 72) / 25.4

export function SheetPage() {
  const { revisionId } = useParams({ from: '/frame/sheet/$revisionId' })
  const sheet = useQuery({
    queryKey: ['sheet', revisionId],
    queryFn: () =>
      unwrapAs<Sheet>(
        api.GET('/api/sheets/{revision_id}', { params: { path: { revision_id: revisionId } } }),
      ),
  })
  if (sheet.error) return <ErrorNote error={sheet.error} again={() => void sheet.refetch()} />
  if (!sheet.data) return <Loading what="the sheet" />
  return <OpenSheet key={revisionId} sheet={sheet.data} />
}

type Box = [number, number, number, number]

/** A box in PDF points as left, upper, right, lower of the page as seen. */
function boxOnPage([left, low, right, high]: Box, toView: Affine): Box {
  const corners: Point[] = [
    [left, low],
    [right, high],
  ]
  const [a, b] = carried(corners, toView)
  if (!a || !b) return [0, 0, 0, 0]
  return [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])]
}

/** The place with enough of the sheet around it to know where one is. */
function around([left, upper, right, lower]: Box): Box {
  const margin = Math.max(120, (right - left) * 1.5, (lower - upper) * 1.5)
  return [left - margin, upper - margin, right + margin, lower + margin]
}

/** What was searched for. */
function FoundBox({ box: [left, upper, right, lower] }: { box: Box }) {
  return (
    <rect
      data-testid="found"
      x={left - 3}
      y={upper - 3}
      width={right - left + 6}
      height={lower - upper + 6}
      fill="#9A6A00"
      fillOpacity={0.18}
      stroke="#9A6A00"
      strokeWidth={2}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  )
}

/** The sheet takes the whole window; pens below, marks at the right, the sheet's identity at the upper left. */
function OpenSheet({ sheet }: { sheet: Sheet }) {
  const marks = useMarks(sheet.revision_id)
  const navigate = useNavigate()
  const view = useRef<View>(null)
  const waiting = useRef<Point>([0, 0])
  const asked = useSearch({ from: '/frame/sheet/$revisionId' })
  const [page, setPage] = useState(Math.min(asked.page ?? 0, Math.max(0, sheet.pages.length - 1)))
  const [gesture, setGesture] = useState<Gesture>({ kind: 'idle' })
  const [chosen, setChosen] = useState<string | null>(asked.mark ?? null)
  const [removed, setRemoved] = useState<Mark | null>(null)
  const [listOpen, setListOpen] = useState(true)

  const toView = (sheet.pages[page]?.to_view as Affine | undefined) ?? UPRIGHT
  const toPage = useMemo(() => inverse(toView), [toView])
  const all = marks.list.data ?? []
  const here = all.filter((mark) => mark.page === page)
  const mine = all.filter((mark) => !mark.inked_at)
  const drawing = gesture.kind !== 'idle'

  const found = asked.at && page === (asked.page ?? 0) ? boxOnPage(asked.at, toView) : null

  function keep(stroke: Stroke) {
    const points = carried(stroke.points, toPage)
    marks.draw.mutate(
      { page, kind: stroke.kind, points, text: '' },
      {
        onSuccess: (mark) => {
          setChosen(mark.id)
          setGesture({ kind: 'idle' })
          setListOpen(true)
        },
      },
    )
  }

  function choose(id: string) {
    setChosen((old) => (old === id ? null : id))
    const mark = all.find((each) => each.id === id)
    if (!mark) return
    setPage(mark.page)
    setListOpen(true)
    if (chosen !== id) view.current?.goTo(centre(carried(mark.points, toView)))
  }

  function remove(mark: Mark) {
    marks.remove.mutate(mark, {
      onSuccess: () => {
        setRemoved(mark)
        setChosen(null)
      },
    })
  }

  function ink() {
    if (mine.length) marks.ink.mutate(mine.map((mark) => mark.id))
  }

  function placeInMiddle() {
    const at = view.current?.middle() ?? [0, 0]
    const half = BULGE * 3
    if (gesture.kind !== 'pen') return
    const outline = rectangle([at[0] - half, at[1] - half], [at[0] + half, at[1] + half])
    keep(gesture.pen === 'pin' ? { kind: 'pin', points: [at] } : { kind: 'cloud', points: outline })
  }

  function nudge(x: number, y: number) {
    const mark = all.find((each) => each.id === chosen)
    if (!mark?.may_change) return
    if (marks.change.isPending) {
      waiting.current = [waiting.current[0] + x, waiting.current[1] + y]
      return
    }
    const moved = carried(mark.points, toView).map(([px, py]): Point => [px + x * STEP_PT, py + y * STEP_PT])
    marks.change.mutate({ mark, points: carried(moved, toPage) })
  }

  // Keys pressed while a change is on its way are not lost: the mark goes their whole way afterwards.
  useEffect(() => {
    const [x, y] = waiting.current
    if (marks.change.isPending || (x === 0 && y === 0)) return
    waiting.current = [0, 0]
    nudge(x, y)
  })

  function revision(step: number) {
    const place = sheet.revisions.findIndex((each) => each.id === sheet.revision_id)
    const next = sheet.revisions[place + step]
    if (next) void navigate({ to: '/sheet/$revisionId', params: { revisionId: next.id } })
  }

  useSheetKeys({
    gesture,
    setGesture,
    mayMark: sheet.may_mark,
    placeInMiddle,
    nudge,
    ink,
    revision,
    fit: () => view.current?.fit(),
    zoom: (factor) => view.current?.zoomBy(factor),
    unchoose: () => setChosen(null),
    remove: () => {
      const mark = all.find((each) => each.id === chosen)
      if (mark?.may_change) remove(mark)
    },
  })

  const at = (event: PointerEvent): Point => view.current?.place(event.clientX, event.clientY) ?? [0, 0]
  return (
    <div className="flex h-full">
      <div
        className="relative min-w-0 flex-1"
        onPointerDown={(event) => {
          if (!drawing || event.button !== 0 || (event.target as HTMLElement).closest('button')) return
          event.currentTarget.setPointerCapture(event.pointerId)
          setGesture(press(gesture, at(event)))
        }}
        onPointerMove={(event) => gesture.kind === 'dragging' && setGesture(drag(gesture, at(event)))}
        onPointerUp={(event) => {
          if (!drawing || (event.target as HTMLElement).closest('button')) return
          const { gesture: next, stroke } = release(gesture, at(event))
          setGesture(next)
          if (stroke) keep(stroke)
        }}
      >
        <SheetView
          sheet={sheet}
          page={page}
          drawing={drawing}
          view={view}
          onOpen={() => found && view.current?.show(around(found))}
        >
          {found && <FoundBox box={found} />}
          <MarkShapes marks={here} toView={toView} chosen={chosen} onChoose={choose} />
          <Rubber gesture={gesture} />
        </SheetView>
        <TitleBlock sheet={sheet} page={page} onPage={setPage} />
        <PenStrip
          sheet={sheet}
          gesture={gesture}
          onGesture={setGesture}
          onFit={() => view.current?.fit()}
          onZoom={(by) => view.current?.zoomBy(by)}
          listOpen={listOpen}
          onList={() => setListOpen(!listOpen)}
        />
        {removed && (
          <Undo
            onUndo={() => marks.bringBack.mutate(removed, { onSuccess: () => setRemoved(null) })}
            onGone={() => setRemoved(null)}
          />
        )}
      </div>
      {listOpen && (
        <MarkList
          marks={all}
          acts={marks}
          mayMark={sheet.may_mark}
          chosen={chosen}
          onChoose={choose}
          onInk={ink}
          onRemove={remove}
        />
      )}
    </div>
  )
}

function Undo({ onUndo, onGone }: { onUndo: () => void; onGone: () => void }) {
  useEffect(() => {
    const timer = setTimeout(onGone, 12_000)
    return () => clearTimeout(timer)
  }, [onGone])
  return (
    <div
      role="status"
      className="absolute bottom-16 left-1/2 flex -translate-x-1/2 items-center gap-3 border border-second bg-surface px-3 py-2"
    >
      Mark taken away.
      <Button small look="act" onClick={onUndo}>
        Undo
      </Button>
    </div>
  )
}

interface SheetKeys {
  gesture: Gesture
  setGesture: (gesture: Gesture) => void
  mayMark: boolean
  placeInMiddle: () => void
  nudge: (x: number, y: number) => void
  ink: () => void
  revision: (step: number) => void
  fit: () => void
  zoom: (factor: number) => void
  unchoose: () => void
  remove: () => void
}

function useSheetKeys(on: SheetKeys) {
  const pen = (kind: 'cloud' | 'pin') => () => on.mayMark && on.setGesture({ kind: 'pen', pen: kind })
  useKeys({
    '1': pen('cloud'),
    '2': pen('pin'),
    p: on.ink,
    f: on.fit,
    '+': () => on.zoom(1.4),
    '-': () => on.zoom(1 / 1.4),
    '[': () => on.revision(-1),
    ']': () => on.revision(1),
    Delete: on.remove,
    Escape: () => (on.gesture.kind === 'idle' ? on.unchoose() : on.setGesture({ kind: 'idle' })),
    ...(on.gesture.kind === 'pen' && { Enter: on.placeInMiddle }),
    ArrowLeft: () => on.nudge(-1, 0),
    ArrowRight: () => on.nudge(1, 0),
    ArrowUp: () => on.nudge(0, -1),
    ArrowDown: () => on.nudge(0, 1),
  })
}
