import type { ReactNode, Ref } from 'react'

import type { Schemas } from '../../api/client'
import { TileView, type View } from '../../ui/TileView'

export type { View }

interface Props {
  sheet: Schemas['Sheet']
  page: number
  drawing: boolean
  view: Ref<View>
  onOpen?: () => void
  children: ReactNode
}

/** A page of a revision, and over it what is drawn in points of the page as seen. */
export function SheetView({ sheet, page, drawing, view, onOpen, children }: Props) {
  const shape = sheet.pages[page]
  return (
    <TileView
      source={{
        address: `/api/sheets/${sheet.revision_id}/tiles/${page}`,
        width: shape?.width_pt ?? 1,
        height: shape?.height_pt ?? 1,
        tilePx: sheet.tile_px,
        firstLevel: sheet.first_level,
        topLevel: sheet.top_level,
      }}
      drawing={drawing}
      view={view}
      {...(onOpen ? { onOpen } : {})}
    >
      {children}
    </TileView>
  )
}
