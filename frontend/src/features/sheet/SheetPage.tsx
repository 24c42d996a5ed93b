import { useQuery } from '@tanstack/react-query'
import { useParams, useSearch } from '@tanstack/react-router'
import { useEffect } from 'react'

import type { Schemas } from '../../api/client'
import { useLookedAt } from '../../api/lookedAt'
import { surroundings } from '../../domain/pageBox'
import { endFirstLook } from '../../api/firstLook'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Beside } from './Beside'
import { FilePage } from './FilePage'
import { MarkHover, useMarkHover } from './marks/MarkHover'
import { PenRoll } from './marks/PenRoll'
import { PenStrip } from './marks/PenStrip'
import { ReviewStrip } from './review/ReviewStrip'
import { Frames, RoomBar, RoomNotes } from './room/RoomBar'
import { Side } from './room/RoomSide'
import { RoomStrip } from './room/RoomStrip'
import { scalesOf } from './measure/useScales'
import { SheetContext, useSheet } from './sheetContext'
import { Caught, FoundBox, Overlay, Regions, Telling } from './SheetOverlay'
import { sheetQuery, useNextAhead } from './sheetQuery'
import { SheetView } from './SheetView'
import { TitleBlock } from './TitleBlock'
import { useOpenSheet } from './useOpenSheet'
import { useSheetKeys } from './useSheetKeys'
import { useSheetTravel } from './useSheetTravel'
import { WayShapes } from './WayShapes'
import { isLost } from '../../api/fetched'

export function SheetPage() {
  const { revisionId } = useParams({ from: '/frame/sheet/$revisionId' })
  const sheet = useQuery(sheetQuery(revisionId))
  const { session } = useSearch({ from: '/frame/sheet/$revisionId' })
  useLookedAt('document', sheet.data?.document_id)
  useLookedAt('session', session)
  // Where there is no view to take it over.
  const viewless = sheet.error !== null || sheet.data?.pages.length === 0
  useEffect(() => {
    if (viewless) endFirstLook()
    return endFirstLook
  }, [viewless])
  if (isLost(sheet)) return <ErrorNote error={sheet.error} again={() => void sheet.refetch()} />
  if (!sheet.data) return <Loading what="the sheet" />
  if (!sheet.data.pages.length) return <FilePage sheet={sheet.data} />
  return <OpenSheet key={revisionId} sheet={sheet.data} />
}

/** The sheet takes the whole window; pens below, marks at the right, the sheet's identity at the upper left. */
function OpenSheet({ sheet }: { sheet: Schemas['Sheet'] }) {
  const open = useOpenSheet(sheet)
  const { hand, panes, pens } = open
  const { over, ...hover } = useMarkHover(hand.gesture.kind === 'idle' && !hand.pen)
  useSheetKeys(open, useSheetTravel(open))
  useNextAhead(sheet.document_id)
  return (
    <SheetContext value={open}>
      <div className="flex h-full flex-col">
        <RoomBar />
        <div className="relative flex min-h-0 flex-1">
          <RoomStrip />
          <div
            className="relative min-w-0 flex-1 touch-none"
            {...hand.pointers}
            {...hover}
            {...(open.followed
              ? { onPointerDownCapture: open.stopFollowing, onWheelCapture: open.stopFollowing }
              : {})}
          >
            <Paper />
            <RoomNotes />
            <TitleBlock />
            <Beside />
            <Telling hand={hand} />
            <MarkHover over={over} />
            {panes.roll && pens.rolls.data && (
              <PenRoll
                rolls={pens.rolls.data}
                pens={pens}
                inks={open.inks}
                hand={hand}
                onClose={() => panes.setRoll(false)}
              />
            )}
            <PenStrip />
          </div>
          {panes.list && <Side />}
        </div>
        {!sheet.let_in && <ReviewStrip revisionId={sheet.revision_id} />}
      </div>
    </SheetContext>
  )
}

/** The page, and what is drawn over it. */
function Paper() {
  const { sheet, page, hand, off, view, sought, ways, panes, scales, toView, snap, moved } = useSheet()
  const { found } = sought
  return (
    <SheetView
      sheet={sheet}
      page={page}
      drawing={hand.gesture.kind !== 'idle'}
      off={off}
      view={view}
      onMove={moved}
      onOpen={() => found && view.current?.show(surroundings(found))}
    >
      {found && <FoundBox box={found} />}
      {!hand.pen && <WayShapes ways={ways} toView={toView} />}
      {panes.beside === 'measure' && <Regions scales={scalesOf(scales, page).scales} toView={toView} />}
      <Overlay />
      <Frames />
      {hand.pen && snap.caught && <Caught at={snap.caught} />}
    </SheetView>
  )
}
