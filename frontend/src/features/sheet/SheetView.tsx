import type { ReactNode, Ref } from 'react'

import type { Schemas } from '../../api/client'
import { TileView, type Part, type View } from '../../ui/TileView'

export type { View }

interface Props {
  sheet: Schemas['Sheet']
  page: number
  drawing: boolean
  view: Ref<View>
  /** Layers that are off, by their places; null for the file's own choice. */
  off?: ReadonlySet<number> | null
  onOpen?: () => void
  onMove?: (part: Part) => void
  children: ReactNode
}

/** A page of a revision, and over it what is drawn in points of the page as seen. */
export function SheetView({ sheet, page, drawing, view, off = null, onOpen, onMove, children }: Props) {
  const shape = sheet.pages[page]
  return (
    <TileView
      source={{
        address: `/api/sheets/${sheet.revision_id}/${off ? `layered/${[...off].sort((a, b) => a - b).join('.') || 'none'}` : 'tiles'}/${page}`,
        width: shape?.width_pt ?? 1,
        height: shape?.height_pt ?? 1,
        tilePx: sheet.tile_px,
        firstLevel: sheet.first_level,
        topLevel: sheet.top_level,
        wholeLevel: sheet.whole_level,
        largeLevel: sheet.large_level,
      }}
      drawing={drawing}
      keep={`${sheet.document_id} ${page} ${shape?.size_name ?? ''}`}
      view={view}
      map
      {...(onOpen ? { onOpen } : {})}
      {...(onMove ? { onMove } : {})}
    >
      {children}
    </TileView>
  )
}
