import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import { useTaker } from '../../../api/live'
import { outbox, useLeftBehind, type Outgoing } from '../../../api/outgoing'
import type { Point } from '../../../domain/affine'
import type { Saying } from '../../../ui/SayField'
import { sendOnce } from '../../../ui/useKept'
import { withTold } from './toldMarks'
import { useGathered } from './useGathered'
import type { MarkReaders } from './useReaders'
import { useSeat, type Me } from '../../../api/me'
import { bodyOf, isAway, onceFor, WAITING } from '../../../api/waiting'
import { isOffline } from '../../../api/problems'
import { shownWaiting, type WaitingDraw } from '../../../api/waitingMarks'

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

/** The session that what is drawn goes into, in ink for its readers or in pencil. */
export interface DrawsTo {
  sessionId: string
  ink: boolean
  readers: MarkReaders
}

/** The marks of a revision that I may see, and the acts on them. */
export function useMarks(revisionId: string, to: DrawsTo | null = null) {
  const kept = useKeptMarks(revisionId)
  const change = useChange(kept)
  const own = useOwnActs(kept, to)
  const threads = useThreadActs(kept)
  const list = useQuery({ queryKey: kept.key, queryFn: kept.queryFn })
  /** What the last act was refused with, whichever it was: one that went through since has put it right. */
  const trouble = () =>
    newestOf([own.ink, own.openTo, ...Object.values(threads), change, own.remove, own.draw])?.error ?? null
  const { fetchNow, latest, settled, draws } = kept
  const { me } = useSeat()
  const left = useLeftDraws(revisionId)
  const all = useMemo(() => {
    const waiting = [...left, ...draws]
    return waiting.length ? [...(list.data ?? []), ...shownWaiting(waiting, authorOf(me), me.now)] : list.data
  }, [list.data, left, draws, me])
  const held = left.length > 0 || draws.some((draw) => draw.held)
  return { list, all, held, fetchNow, latest, settled, change, ...own, ...threads, trouble }
}

const authorOf = ({ person }: Me): Schemas['Author'] => ({ ...person, way: 'person', taken_in_by: '' })

/** What was drawn here before the page was loaded anew, and still waits for the line. */
function useLeftDraws(revisionId: string): readonly WaitingDraw[] {
  const left = useLeftBehind(outbox)
  const here = JSON.stringify(left.filter((each) => each.what === 'draw' && each.revisionId === revisionId))
  return useMemo(
    () =>
      (JSON.parse(here) as Outgoing[]).map(({ key, body }) => ({
        key,
        marks: body['marks'] as NewMark[],
        held: true,
      })),
    [here],
  )
}

function newestOf<Act extends { submittedAt: number }>(acts: readonly Act[]): Act | undefined {
  return acts.reduce<Act | undefined>(
    (newest, act) => (act.submittedAt > (newest?.submittedAt ?? 0) ? act : newest),
    undefined,
  )
}

/** The list as it is kept here: what is asked for and not answered shows at once, and nothing brings back an older state. */
function useKeptMarks(revisionId: string) {
  const client = useQueryClient()
  const key = ['marks', revisionId] as const
  const changing = useRef<Promise<unknown>>(Promise.resolve())
  const [draws, setDraws] = useState<readonly WaitingDraw[]>([])
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
  const path = { params: { path: { revision_id: revisionId } } }
  const queryFn = async () =>
    (await unwrapAs<Mark[]>(api.GET('/api/sheets/{revision_id}/marks', path))).map(newest).map(asLeft)
  /** A mark as it stands now: what was drawn on the screen last may be a change older. */
  const latest = (mark: Mark): Mark =>
    asLeft(newest(client.getQueryData<Mark[]>(key)?.find((each) => each.id === mark.id) ?? mark))

  const take = useGathered((told, gone) => {
    const old = client.getQueryData<Mark[]>(key)
    const merged = old && withTold(old, told.map(newest).map(asLeft), gone)
    // A fetch on its way may have been answered before it: then one more follows.
    if (!merged || client.isFetching({ queryKey: key })) void client.invalidateQueries({ queryKey: key })
    else client.setQueryData<Mark[]>(key, merged)
  })
  // What others do comes with the event.
  useTaker(({ subject, marks: told, gone = [] }) => {
    if (subject !== revisionId || !told || !client.getQueryData<Mark[]>(key)) return []
    for (const mark of told) answered.current.set(mark.id, newest(mark))
    take(told, gone)
    // Only what was carried here, or is gone, changes what can still be carried.
    const along = gone.length > 0 || told.some((mark) => mark.first_place)
    return along ? ['marks', 'scales'] : ['marks', 'scales', 'carry']
  })

  return {
    client,
    key,
    revisionId,
    path,
    draws,
    setDraws,
    queryFn,
    waiting,
    answered,
    asLeft,
    newest,
    latest,
    versionOf: (mark: Mark) => Math.max(mark.version, latest(mark).version),
    /** The marks as the server has them now: for acts that must not meet an old version. */
    fetchNow: () => client.fetchQuery({ queryKey: key, queryFn, staleTime: 0 }),
    /** When the change that was sent last is through. */
    settled: () => changing.current,
    onSettled: () => client.invalidateQueries({ queryKey: key }),
    /** After what is on its way: text typed last goes first when a button is pressed, and leaves a new version. */
    inTurn: <T>(send: () => Promise<T>): Promise<T> => {
      const sent = changing.current.then(send)
      changing.current = sent.catch(() => undefined)
      return sent
    },
  }
}

type Kept = ReturnType<typeof useKeptMarks>

/** Changing one's own marks: the sheet follows the hand at once; a refusal brings back what was. */
function useChange(kept: Kept) {
  const { client, key, path, waiting, answered, asLeft, newest, versionOf, inTurn } = kept
  async function send(changes: readonly Asked[]) {
    const act = { ...path, ...onceFor(changes) }
    const body = bodyOf(changes, () => ({
      changes: changes.map(({ mark, to }) => ({ ...EMPTY, ...to, id: mark.id, version: versionOf(mark) })),
    }))
    const changed = await unwrapAs<Mark[]>(
      api.POST('/api/sheets/{revision_id}/marks/change', { ...act, body }),
    )
    waiting.current.delete(changes)
    for (const mark of changed) answered.current.set(mark.id, mark)
    const byId = new Map(changed.map((mark) => [mark.id, asLeft(mark)]))
    client.setQueryData<Mark[]>(key, (old) => old?.map((mark) => byId.get(mark.id) ?? mark))
    return changed
  }
  return useMutation({
    ...WAITING,
    mutationFn: (changes: readonly Asked[]) => inTurn(() => send(changes)),
    onMutate: (changes) => {
      // A list that was asked for before would bring back old versions, and the next key would meet these. Not
      // waited for, or the act after this one could overtake it.
      void client.cancelQueries({ queryKey: key })
      const byId = new Map(changes.map(({ mark, to }) => [mark.id, to]))
      const before = client.getQueryData<Mark[]>(key)?.filter((mark) => byId.has(mark.id)) ?? []
      waiting.current.set(changes, byId)
      client.setQueryData<Mark[]>(key, (old) => old?.map((mark) => shownAs(mark, byId.get(mark.id))))
      return new Map(before.map((mark) => [mark.id, mark]))
    },
    // The list may not be had anew now: what was refused must not stand in it as if it had been done.
    onError: (_error, changes, before) => {
      waiting.current.delete(changes)
      const back = (mark: Mark) => asLeft(newest(before?.get(mark.id) ?? mark))
      client.setQueryData<Mark[]>(key, (old) => old?.map(back))
    },
    onSettled: (_answer, _error, changes) => {
      waiting.current.delete(changes)
      return kept.onSettled()
    },
  })
}

const keyOf = (act: object) => onceFor(act).headers['Idempotency-Key']

function sendDrawn(revisionId: string, marks: NewMark[], to: DrawsTo | null): Promise<Mark[]> {
  const act = { key: keyOf(marks), what: 'draw' as const, revisionId }
  if (!to)
    return outbox.sendKept<Mark[]>({ ...act, path: `/api/sheets/${revisionId}/marks`, body: { marks } })
  const path = `/api/sessions/${to.sessionId}/sheets/${revisionId}/marks`
  const body = { marks, ink: to.ink, readers: to.readers.kind, group: to.readers.id }
  return outbox.sendKept<Mark[]>({ ...act, path, body })
}

/** Drawing: shown at once, waiting while the line is down, and done once however often it had to be sent. */
function useDrawing({ client, key, revisionId, setDraws, onSettled }: Kept, to: DrawsTo | null) {
  const without = (gone: string) => setDraws((now) => now.filter((draw) => draw.key !== gone))
  return useMutation({
    ...WAITING,
    mutationFn: async (marks: NewMark[]) => {
      try {
        // Where it goes is said the first time: it may wait for the line until one is elsewhere.
        return await sendDrawn(
          revisionId,
          marks,
          bodyOf(marks, () => to),
        )
      } catch (error) {
        const mine = keyOf(marks)
        if (isOffline(error))
          setDraws((now) => now.map((draw) => (draw.key === mine ? { ...draw, held: true } : draw)))
        throw error
      }
    },
    onMutate: (marks) => setDraws((now) => [...now, { key: keyOf(marks), marks, held: isAway() }]),
    onSuccess: (answer, marks) => {
      const there = (old: Mark[]) => new Set(old.map((mark) => mark.id))
      client.setQueryData<Mark[]>(key, (old) => {
        const known = old && there(old)
        return known && [...old, ...answer.filter((mark) => !known.has(mark.id))]
      })
      without(keyOf(marks))
    },
    onError: (_error, marks) => without(keyOf(marks)),
    onSettled,
  })
}

/** Drawing, inking, taking away and bringing back one's own marks. */
function useOwnActs(kept: Kept, to: DrawsTo | null) {
  const { path, fetchNow, settled, versionOf, inTurn, onSettled } = kept
  const versions = (marks: readonly Mark[], of: (mark: Mark) => number) =>
    Object.fromEntries(marks.map((mark) => [mark.id, of(mark)]))
  return {
    draw: useDrawing(kept, to),
    ink: useMutation({
      mutationFn: async ({ ids, readers }: { ids: string[]; readers: MarkReaders }) => {
        // What was typed last may still be on its way: it is to be inked too, and pencil has no other author.
        await settled()
        const pencil = (await fetchNow()).filter((mark) => ids.includes(mark.id) && !mark.inked_at)
        const marks = versions(pencil, (mark) => mark.version)
        const body = { marks, readers: readers.kind, group: readers.id }
        return unwrap(api.POST('/api/sheets/{revision_id}/ink', { ...path, body }))
      },
      onSettled,
    }),
    openTo: useMutation({
      mutationFn: ({ mark, readers }: { mark: Mark; readers: MarkReaders }) =>
        inTurn(() => {
          const body = { marks: versions([mark], versionOf), readers: readers.kind, group: readers.id }
          return unwrap(api.POST('/api/sheets/{revision_id}/marks/open', { ...path, body }))
        }),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (marks: readonly Mark[]) =>
        inTurn(() => {
          const body = { marks: versions(marks, versionOf) }
          return unwrap(api.POST('/api/sheets/{revision_id}/marks/remove', { ...path, body }))
        }),
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
}

/** What anybody does who may mark: answering, setting the state, linking. */
function useThreadActs({ versionOf, inTurn, onSettled, revisionId }: Kept) {
  const of = (mark: Mark) => ({ params: { path: { mark_id: mark.id } } })
  return {
    reply: useMutation({
      ...WAITING,
      mutationFn: ({ mark, said: { form, ...body } }: { mark: Mark; said: Saying }) =>
        sendOnce(form, () => {
          const path = `/api/marks/${mark.id}/replies`
          return outbox.sendKept({ key: form.once, what: 'reply', path, body, revisionId, draft: form.key })
        }),
      onSettled,
    }),
    setState: useMutation({
      ...WAITING,
      mutationFn: (act: { mark: Mark; state: MarkState }) =>
        inTurn(() => {
          const body = bodyOf(act, () => ({ version: versionOf(act.mark), state: act.state }))
          const path = `/api/marks/${act.mark.id}/state`
          return outbox.sendKept({ key: keyOf(act), what: 'state', path, body, revisionId })
        }),
      onSettled,
    }),
    link: useMutation({
      mutationFn: ({ mark, target: { kind, target } }: { mark: Mark; target: Schemas['Thing'] }) =>
        unwrap(api.POST('/api/marks/{mark_id}/links', { ...of(mark), body: { kind, target } })),
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
  }
}

/** What of a change shows at once; who a mark is for, and how exact its place is, the server knows. */
const SHOWN = ['points', 'rings', 'look', 'text', 'label', 'discipline', 'locked', 'rank'] as const

function shownAs(mark: Mark, to: Change | undefined): Mark {
  if (!to) return mark
  const told = Object.fromEntries(SHOWN.flatMap((key) => (to[key] == null ? [] : [[key, to[key]]])))
  // What it measures is told by the server, for where it stands.
  return { ...mark, ...told, measured: to.points ? null : mark.measured }
}

export type Marks = ReturnType<typeof useMarks>
