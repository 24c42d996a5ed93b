import type { ReactNode, Ref } from 'react'

import type { Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { TileView, type View } from '../../ui/TileView'
import { asGuest, type Entered } from './guestVisit'

/** How the pages of a file are drawn. */
export interface Drawn {
  tile_px: number
  first_level: number
  top_level: number
  whole_level: number
  large_level: number
}

interface PaperProps {
  visit: Entered
  /** Where its tiles are, without the page. */
  address: string
  pages: readonly Schemas['SheetPage'][]
  page: number
  drawn: Drawn
  keep: string
  view?: Ref<View>
  /** A pen has the pointer: the page stays where it is. */
  drawing?: boolean
  children?: ReactNode
}

/** A page that only the visit may see, to be moved about and looked at closely. */
export function GuestPaper({ drawing = false, view = null, ...props }: PaperProps) {
  const { visit, address, pages, page, drawn, keep, children } = props
  const shape = pages[page]
  if (!shape)
    return <p className="p-6 text-second">This file has no pages to look at. Download it to see it.</p>
  return (
    <TileView
      source={{
        address: `${address}/${page}`,
        width: shape.width_pt,
        height: shape.height_pt,
        tilePx: drawn.tile_px,
        firstLevel: drawn.first_level,
        topLevel: drawn.top_level,
        wholeLevel: drawn.whole_level,
        largeLevel: drawn.large_level,
        headers: asGuest(visit).headers,
      }}
      drawing={drawing}
      keep={`${keep} ${page}`}
      view={view}
      map
    >
      {children}
    </TileView>
  )
}

interface TurnerProps {
  count: number
  page: number
  onPage: (page: number) => void
}

/** From page to page; nothing where there is one. */
export function PageTurner({ count, page, onPage }: TurnerProps) {
  if (count < 2) return null
  return (
    <div className="flex items-center gap-2 text-list">
      <Button small why={page === 0 && 'This is the first page.'} onClick={() => onPage(page - 1)}>
        Page before
      </Button>
      <span className="whitespace-nowrap">
        {page + 1} of {count}
      </span>
      <Button small why={page + 1 === count && 'This is the last page.'} onClick={() => onPage(page + 1)}>
        Page after
      </Button>
    </div>
  )
}
