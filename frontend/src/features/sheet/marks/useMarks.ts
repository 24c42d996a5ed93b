import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import type { Point } from '../../../domain/affine'

export type Mark = Schemas['Mark']
export type Look = Schemas['MarkLook']
export type NewMark = Schemas['NewMark']
export type MarkState = Schemas['SetMarkState']['state']

/** New values of a mark that is there; what is left out stays. */
export type Change = Partial<
  Pick<
    Schemas['MarkChange'],
    'points' | 'rings' | 'look' | 'text' | 'label' | 'discipline' | 'meant_for' | 'locked' | 'rank' | 'aim_pt'
  >
>

interface Asked {
  mark: Mark
  to: Change
}

const EMPTY: Change = {
  points: null,
  rings: null,
  look: null,
  text: null,
  label: null,
  discipline: null,
  meant_for: null,
  locked: null,
  rank: null,
  aim_pt: null,
}

export const pairs = (points: readonly Point[]) => points.map(([x, y]): [number, number] => [x, y])

/** The marks of a revision that I may see, and the acts on them. */
export function useMarks(revisionId: string) {
  const client = useQueryClient()
  const path = { params: { path: { revision_id: revisionId } } }
  const key = ['marks', revisionId] as const
  const changing = useRef<Promise<unknown>>(Promise.resolve())
  /** Changes that are asked for and not answered yet, the earlier first. */
  const waiting = useRef(new Map<readonly Asked[], Map<string, Change>>())
  /** What answers to changes have told: a list that was asked for before one of them may come after it. */
  const answered = useRef(new Map<string, Mark>())
  const newest = (mark: Mark) => {
    const told = answered.current.get(mark.id)
    return told && told.version > mark.version ? told : mark
  }
  /** As the hand left it: an answer to an earlier change, or a list asked for before, must not show an older state. */
  const asLeft = (mark: Mark) =>
    [...waiting.current.values()].reduce((shown, to) => shownAs(shown, to.get(mark.id)), mark)
  const onSettled = () => client.invalidateQueries({ queryKey: key })
  const of = (mark: Mark) => ({ params: { path: { mark_id: mark.id } } })
  const queryFn = async () =>
    (await unwrapAs<Mark[]>(api.GET('/api/sheets/{revision_id}/marks', path))).map(newest).map(asLeft)
  const fetchNow = () => client.fetchQuery({ queryKey: key, queryFn, staleTime: 0 })
  /** A mark as it stands now: what was drawn on the screen last may be a change older. */
  const latest = (mark: Mark): Mark =>
    asLeft(newest(client.getQueryData<Mark[]>(key)?.find((each) => each.id === mark.id) ?? mark))
  const versionOf = (mark: Mark) => Math.max(mark.version, latest(mark).version)
  /** After what is on its way: text typed last goes first when a button is pressed, and leaves a new version. */
  const inTurn = <T>(send: () => Promise<T>): Promise<T> => {
    const sent = changing.current.then(send)
    changing.current = sent.catch(() => undefined)
    return sent
  }

  const acts = {
    list: useQuery({ queryKey: key, queryFn }),
    /** The marks as the server has them now: for acts that must not meet an old version. */
    fetchNow,
    latest,
    /** When the change that was sent last is through. */
    settled: () => changing.current,
    draw: useMutation({
      mutationFn: (marks: NewMark[]) =>
        unwrapAs<Mark[]>(api.POST('/api/sheets/{revision_id}/marks', { ...path, body: { marks } })),
      onSettled,
    }),
    change: useMutation({
      mutationFn: (changes: readonly Asked[]) =>
        inTurn(async () => {
          const body = {
            changes: changes.map(({ mark, to }) => ({
              ...EMPTY,
              ...to,
              id: mark.id,
              version: versionOf(mark),
            })),
          }
          const changed = await unwrapAs<Mark[]>(
            api.POST('/api/sheets/{revision_id}/marks/change', { ...path, body }),
          )
          waiting.current.delete(changes)
          for (const mark of changed) answered.current.set(mark.id, mark)
          const byId = new Map(changed.map((mark) => [mark.id, asLeft(mark)]))
          client.setQueryData<Mark[]>(key, (old) => old?.map((mark) => byId.get(mark.id) ?? mark))
          return changed
        }),
      // The sheet follows the hand at once; a refusal brings back what was.
      onMutate: (changes) => {
        // A list that was asked for before would bring back old versions, and the next key would meet these. Not
        // waited for, or the act after this one could overtake it.
        void client.cancelQueries({ queryKey: key })
        const byId = new Map(changes.map(({ mark, to }) => [mark.id, to]))
        waiting.current.set(changes, byId)
        client.setQueryData<Mark[]>(key, (old) => old?.map((mark) => shownAs(mark, byId.get(mark.id))))
      },
      onSettled: (_answer, _error, changes) => {
        waiting.current.delete(changes)
        return onSettled()
      },
    }),
    ink: useMutation({
      mutationFn: async (ids: string[]) => {
        // What was typed last may still be on its way: it is to be inked too, and pencil has no other author.
        await changing.current
        const marks = (await fetchNow()).filter((mark) => ids.includes(mark.id) && !mark.inked_at)
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
      mutationFn: ({ mark, said }: { mark: Mark; said: Schemas['WriteReply'] }) =>
        unwrap(api.POST('/api/marks/{mark_id}/replies', { ...of(mark), body: said })),
      onSettled,
    }),
    setState: useMutation({
      mutationFn: ({ mark, state }: { mark: Mark; state: MarkState }) =>
        inTurn(() =>
          unwrap(
            api.POST('/api/marks/{mark_id}/state', {
              ...of(mark),
              body: { version: versionOf(mark), state },
            }),
          ),
        ),
      onSettled,
    }),
    link: useMutation({
      mutationFn: ({ mark, target }: { mark: Mark; target: Schemas['Thing'] }) =>
        unwrap(
          api.POST('/api/marks/{mark_id}/links', {
            ...of(mark),
            body: { kind: target.kind, target: target.target },
          }),
        ),
      onSettled,
    }),
    unlink: useMutation({
      mutationFn: ({ mark, linkId }: { mark: Mark; linkId: string }) =>
        unwrap(
          api.DELETE('/api/marks/{mark_id}/links/{link_id}', {
            params: { path: { mark_id: mark.id, link_id: linkId } },
          }),
        ),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (marks: readonly Mark[]) =>
        inTurn(() =>
          unwrap(
            api.POST('/api/sheets/{revision_id}/marks/remove', {
              ...path,
              body: { marks: Object.fromEntries(marks.map((mark) => [mark.id, versionOf(mark)])) },
            }),
          ),
        ),
      onSettled,
    }),
    bringBack: useMutation({
      mutationFn: (ids: string[]) =>
        unwrapAs<Mark[]>(
          api.POST('/api/sheets/{revision_id}/marks/bring-back', { ...path, body: { marks: ids } }),
        ),
      onSettled,
    }),
  }
  const { ink, reply, setState, link, unlink, change, remove, draw } = acts
  /** What was refused last, whichever act it was. */
  const trouble = () =>
    [ink, reply, setState, link, unlink, change, remove, draw].find((act) => act.error)?.error ?? null
  return { ...acts, trouble }
}

function shownAs(mark: Mark, to: Change | undefined): Mark {
  if (!to) return mark
  return {
    ...mark,
    points: to.points ?? mark.points,
    rings: to.rings ?? mark.rings,
    // What it measures is told by the server, for where it stands.
    measured: to.points ? null : mark.measured,
    look: to.look ?? mark.look,
    text: to.text ?? mark.text,
    label: to.label ?? mark.label,
    discipline: to.discipline ?? mark.discipline,
    locked: to.locked ?? mark.locked,
    rank: to.rank ?? mark.rank,
  }
}

export type Marks = ReturnType<typeof useMarks>
