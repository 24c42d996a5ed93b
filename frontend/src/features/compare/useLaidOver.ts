import { useQuery } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../api/client'
import type { Affine } from '../../domain/affine'
import type { TileSource } from '../../ui/TileView'
import type { Asked } from './asked'

export type LaidOver = Schemas['LaidOver']
export type Region = Schemas['Region']

/** Two sheets laid over each other; working it out can take some seconds. */
export function useLaidOver(before: string, after: string, asked: Asked) {
  const query = {
    before_page: asked.before_page ?? 0,
    after_page: asked.after_page ?? 0,
    places: asked.places ?? '',
    with_block: asked.with_block ?? false,
  }
  return useQuery({
    queryKey: ['laid-over', before, after, query],
    queryFn: () =>
      unwrapAs<LaidOver>(
        api.GET('/api/compare/{before_revision_id}/{after_revision_id}', {
          params: { path: { before_revision_id: before, after_revision_id: after }, query },
        }),
      ),
    staleTime: Infinity,
    retry: false,
  })
}

/** The tiles of both, or of one of them, on the second's paper. */
export function tilesOf(laid: LaidOver, shown: 'both' | 'first' | 'second'): TileSource {
  const page = laid.after.pages[laid.after_page]
  const pages = `${laid.before_page}/${laid.after_page}`
  return {
    address: `/api/compare/${laid.before.revision_id}/${laid.after.revision_id}/${pages}/${laid.moved.join(',')}/${shown}`,
    width: page?.width_pt ?? 1,
    height: page?.height_pt ?? 1,
    tilePx: laid.after.tile_px,
    firstLevel: laid.after.first_level,
    topLevel: laid.after.top_level,
  }
}

/** Points of the second page to a millimetre of paper. */
export function perMm(laid: LaidOver): number {
  const page = laid.after.pages[laid.after_page]
  return page ? page.width_pt / page.width_mm : 72 / 25.4
}

/** From the second page as seen, in points, to its user space. */
export function toView(laid: LaidOver): Affine {
  return (laid.after.pages[laid.after_page]?.to_view as Affine | undefined) ?? [1, 0, 0, 1, 0, 0]
}
