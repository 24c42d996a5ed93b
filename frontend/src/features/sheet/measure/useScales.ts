import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import type { Scale, Units } from '../../../domain/measure'

export type ShownScale = Schemas['ShownScale']
export type NewScale = Schemas['SetScale']

/** The scales of a sheet, and the acts on them. */
export function useScales(revisionId: string) {
  const client = useQueryClient()
  const path = { params: { path: { revision_id: revisionId } } }
  const key = ['scales', revisionId] as const
  const onSettled = () =>
    Promise.all(
      (['scales', 'marks', 'measures'] as const).map((each) =>
        client.invalidateQueries({ queryKey: [each, revisionId] }),
      ),
    )
  return {
    list: useQuery({
      queryKey: key,
      queryFn: () => unwrapAs<Schemas['SheetScales']>(api.GET('/api/sheets/{revision_id}/scales', path)),
    }),
    set: useMutation({
      mutationFn: (body: NewScale) => unwrap(api.POST('/api/sheets/{revision_id}/scales', { ...path, body })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (scaleId: string) =>
        unwrap(
          api.DELETE('/api/sheets/{revision_id}/scales/{scale_id}', {
            params: { path: { revision_id: revisionId, scale_id: scaleId } },
          }),
        ),
      onSettled,
    }),
  }
}

export type Scales = ReturnType<typeof useScales>

/** Those of a page that can be measured by, as the hand needs them. */
export function scalesOf(scales: Scales, page: number): { scales: Scale[]; units: Units } {
  const known = scales.list.data
  return {
    units: known?.units ?? 'metric',
    scales: (known?.scales ?? []).flatMap((each) =>
      each.page === page && each.mm_per_pt ? [{ box: each.box, mmPerPt: each.mm_per_pt }] : [],
    ),
  }
}

/** Totals of what has been measured, by label. */
export function useMeasures(revisionId: string) {
  return useQuery({
    queryKey: ['measures', revisionId],
    queryFn: () =>
      unwrapAs<Schemas['MeasureTotals']>(
        api.GET('/api/sheets/{revision_id}/measures', { params: { path: { revision_id: revisionId } } }),
      ),
  })
}
