import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useMemo, useRef, useState } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import { useGuestLive } from '../../../api/guestLive'
import { outboxOf, useLeftBehind, type Outgoing } from '../../../api/outgoing'
import { usePresence } from '../../../api/presence'
import { bodyOf, isAway, onceFor, WAITING } from '../../../api/waiting'
import { shownWaiting, type WaitingDraw } from '../../../api/waitingMarks'
import { inTurn } from '../../../domain/inTurn'
import { asGuest, type Entered } from '../guestVisit'

export type GuestRoom = Schemas['GuestSession']
export type GuestMark = Schemas['GuestMark']
export type MarkState = Schemas['StateAsGuest']['state']

const roomKey = (visit: Entered) => ['guest', 'session', visit.guest] as const
const marksKey = (visit: Entered, revisionId: string) =>
  ['guest', 'session-marks', visit.guest, revisionId] as const

const ASKED_AGAIN_MS = 30_000

export function useGuestSession(visit: Entered) {
  return useQuery({
    queryKey: roomKey(visit),
    queryFn: () => unwrapAs<GuestRoom>(api.GET('/api/guest/session', asGuest(visit))),
    retry: false,
    refetchInterval: ASKED_AGAIN_MS,
  })
}

/** The line to the live channel: what others draw is there at once. */
export function useRoomLine(visit: Entered, room: GuestRoom): boolean {
  const client = useQueryClient()
  const here = room.live_url || `${location.protocol}//${location.hostname}:${room.live_port}/live`
  const again = () => client.invalidateQueries({ queryKey: ['guest'] })
  return useGuestLive(room.state === 'open' ? here : '', visit.guest, {
    change: ({ topic, subject }) =>
      void client.invalidateQueries({
        queryKey: topic === 'marks' ? marksKey(visit, subject) : roomKey(visit),
      }),
    missed: () => void again(),
  })
}

const keyOf = (act: object) => onceFor(act).headers['Idempotency-Key']

/** The session's marks on a sheet, and what a guest does with them: kept while there is no line, and done once. */
export function useGuestMarks(visit: Entered, revisionId: string, me: Schemas['Author']) {
  const client = useQueryClient()
  const key = marksKey(visit, revisionId)
  const box = outboxOf(visit.guest)
  const drawing = useGuestDrawing(visit, revisionId, me)
  const marks = useQuery({
    queryKey: key,
    queryFn: async () => {
      const path = { params: { path: { revision_id: revisionId } } }
      const found = await unwrapAs<Schemas['GuestSheetMarks']>(
        api.GET('/api/guest/session/sheets/{revision_id}/marks', { ...path, ...asGuest(visit) }),
      )
      return found.marks
    },
  })
  const onSettled = () => client.invalidateQueries({ queryKey: key })
  const at = (mark: Schemas['Mark'], act: string) => `/api/guest/session/marks/${mark.id}/${act}`
  return {
    marks,
    ...drawing,
    reply: useMutation({
      ...WAITING,
      mutationFn: (said: { mark: Schemas['Mark']; text: string }) =>
        box.sendKept({
          ...{ key: keyOf(said), what: 'reply', revisionId },
          ...{ path: at(said.mark, 'replies'), body: { text: said.text } },
        }),
      onSettled,
    }),
    setState: useMutation({
      ...WAITING,
      mutationFn: (act: { mark: Schemas['Mark']; state: MarkState }) =>
        box.sendKept({
          ...{ key: keyOf(act), what: 'state', revisionId, path: at(act.mark, 'state') },
          body: bodyOf(act, () => ({ version: act.mark.version, state: act.state })),
        }),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (mark: Schemas['Mark']) =>
        unwrap(
          api.POST('/api/guest/session/marks/{mark_id}/remove', {
            params: { path: { mark_id: mark.id } },
            ...asGuest(visit),
            body: { version: mark.version },
          }),
        ),
      onSettled,
    }),
  }
}

/** Drawing: shown at once, and as waiting while the line is down, also after the page was loaded anew. */
function useGuestDrawing(visit: Entered, revisionId: string, me: Schemas['Author']) {
  const client = useQueryClient()
  const box = outboxOf(visit.guest)
  const [draws, setDraws] = useState<readonly WaitingDraw[]>([])
  const left = useLeftBehind(box).filter((each) => each.what === 'draw' && each.revisionId === revisionId)
  const without = (gone: string) => setDraws((now) => now.filter((draw) => draw.key !== gone))
  const waiting = JSON.stringify([...left.map(drawOf), ...draws])
  const draw = useMutation({
    ...WAITING,
    mutationFn: (news: Schemas['NewMark'][]) =>
      box.sendKept({
        ...{ key: keyOf(news), what: 'draw', revisionId, body: { marks: news } },
        path: `/api/guest/session/sheets/${revisionId}/marks`,
      }),
    onMutate: (marks) => setDraws((now) => [...now, { key: keyOf(marks), marks, held: isAway() }]),
    onSettled: async (_answer, _error, marks) => {
      await client.invalidateQueries({ queryKey: marksKey(visit, revisionId) })
      without(keyOf(marks))
    },
  })
  const shown = useMemo(
    () => shownWaiting(JSON.parse(waiting) as WaitingDraw[], me, new Date().toISOString()),
    [waiting, me],
  )
  return { draw, waiting: shown }
}

const drawOf = ({ key, body }: Outgoing): WaitingDraw => ({
  key,
  marks: body['marks'] as Schemas['NewMark'][],
  held: true,
})

export type GuestActs = ReturnType<typeof useGuestMarks>

const SIGN_OF_LIFE_MS = 20_000
const sayInTurn = inTurn()

/** Says on which sheet one is, to those who are in the session; returns who is there. */
export function useGuestPresence(visit: Entered, revisionId: string, page: number, open: boolean) {
  const say = useRef<(leaves: boolean) => void>(() => undefined)
  useEffect(() => {
    say.current = (leaves) => {
      const body = { revision_id: revisionId, page, box: null, calls: false, leaves }
      const send = () =>
        unwrap(api.POST('/api/guest/session/here', { ...asGuest(visit), body, keepalive: leaves }))
      // Nothing that waits goes out of a page that is closed.
      if (leaves) void send().catch(() => undefined)
      else sayInTurn(send)
    }
  })
  useEffect(() => {
    if (!open || !revisionId) return
    say.current(false)
    const alive = setInterval(() => say.current(false), SIGN_OF_LIFE_MS)
    const leave = () => say.current(true)
    window.addEventListener('pagehide', leave)
    return () => {
      clearInterval(alive)
      window.removeEventListener('pagehide', leave)
    }
  }, [open, revisionId, page])
  return usePresence(visit.target)
}
