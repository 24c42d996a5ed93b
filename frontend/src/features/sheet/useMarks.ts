import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import type { Point } from '../../domain/affine'
import type { PenKind } from '../../domain/drawing'

export type Mark = Schemas['Mark']

export interface Drawn {
  page: number
  kind: PenKind
  points: Point[]
  text: string
}

const COLOURS: Record<PenKind, string> = { cloud: 'red', pin: 'blue' }

/** The marks of a revision that I may see, and the acts on them. */
export function useMarks(revisionId: string) {
  const client = useQueryClient()
  const path = { params: { path: { revision_id: revisionId } } }
  const key = ['marks', revisionId]
  const changing = useRef<Promise<unknown>>(Promise.resolve())
  const onSettled = () => client.invalidateQueries({ queryKey: key })
  const of = (mark: Mark) => ({ params: { path: { mark_id: mark.id } } })
  const pair = (points: readonly Point[]) => points.map(([x, y]): [number, number] => [x, y])

  return {
    list: useQuery({
      queryKey: key,
      queryFn: () => unwrapAs<Mark[]>(api.GET('/api/sheets/{revision_id}/marks', path)),
    }),
    draw: useMutation({
      mutationFn: ({ page, kind, points, text }: Drawn) =>
        unwrapAs<Mark>(
          api.POST('/api/sheets/{revision_id}/marks', {
            ...path,
            body: { page, kind, points: pair(points), colour: COLOURS[kind], text },
          }),
        ),
      onSettled,
    }),
    change: useMutation({
      mutationFn: ({ mark, points, text }: { mark: Mark; points?: Point[]; text?: string }) => {
        const sent = unwrap(
          api.PATCH('/api/marks/{mark_id}', {
            ...of(mark),
            body: { version: mark.version, points: points ? pair(points) : null, text: text ?? null },
          }),
        )
        changing.current = sent.catch(() => undefined)
        return sent
      },
      onSettled,
    }),
    ink: useMutation({
      mutationFn: async (ids: string[]) => {
        // What was typed last may still be on its way: it is to be inked too, and pencil has no other author.
        await changing.current
        const now = await unwrapAs<Mark[]>(api.GET('/api/sheets/{revision_id}/marks', path))
        const marks = now.filter((mark) => ids.includes(mark.id) && !mark.inked_at)
        return unwrap(
          api.POST('/api/sheets/{revision_id}/ink', {
            ...path,
            body: { marks: Object.fromEntries(marks.map((mark) => [mark.id, mark.version])) },
          }),
        )
      },
      onSettled,
    }),
    reply: useMutation({
      mutationFn: ({ mark, text }: { mark: Mark; text: string }) =>
        unwrap(api.POST('/api/marks/{mark_id}/replies', { ...of(mark), body: { text } })),
      onSettled,
    }),
    setState: useMutation({
      mutationFn: ({ mark, state }: { mark: Mark; state: 'open' | 'agreed' | 'declined' | 'done' }) =>
        unwrap(
          api.POST('/api/marks/{mark_id}/state', { ...of(mark), body: { version: mark.version, state } }),
        ),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (mark: Mark) =>
        unwrap(api.POST('/api/marks/{mark_id}/remove', { ...of(mark), body: { version: mark.version } })),
      onSettled,
    }),
    bringBack: useMutation({
      mutationFn: (mark: Mark) => unwrap(api.POST('/api/marks/{mark_id}/bring-back', of(mark))),
      onSettled,
    }),
  }
}
