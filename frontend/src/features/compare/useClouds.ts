import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { inverse, type Point } from '../../domain/affine'
import { carried, rectangle } from '../../domain/drawing'
import { perMm, toView, type LaidOver, type Region } from './useLaidOver'

const MARGIN_MM = 3
const MOST = 500

/** Draws changed places as clouds in pencil, on the second sheet. */
export function useClouds(laid: LaidOver | undefined) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: async (regions: readonly Region[]) => {
      if (!laid) return []
      const body = { marks: regions.slice(0, MOST).map((region) => cloudAround(laid, region)) }
      const path = { revision_id: laid.after.revision_id }
      return unwrapAs<Schemas['Mark'][]>(
        api.POST('/api/sheets/{revision_id}/marks', { params: { path }, body }),
      )
    },
    onSettled: () => client.invalidateQueries({ queryKey: ['marks', laid?.after.revision_id] }),
  })
}

function cloudAround(laid: LaidOver, { box: [left, upper, right, lower] }: Region): Schemas['NewMark'] {
  const margin = MARGIN_MM * perMm(laid)
  const from: Point = [left - margin, upper - margin]
  const corners = rectangle(from, [right + margin, lower + margin])
  const points = carried(corners, inverse(toView(laid))).map(([x, y]): [number, number] => [x, y])
  return {
    page: laid.after_page,
    kind: 'cloud',
    points,
    look: {
      colour: 'red',
      weight_mm: 0.5,
      fill: '',
      opacity: 1,
      dashed: false,
      type_mm: 3.5,
      symbol: '',
    },
    text: `Changed since ${laid.before.number} ${laid.before.revision}.`,
    label: 'changed',
    discipline: '',
    rings: [],
    aim_pt: 0,
  }
}
