import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import { useGuestLive } from '../../../api/guestLive'
import { usePresence } from '../../../api/presence'
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

export function useGuestMarks(visit: Entered, revisionId: string) {
  const client = useQueryClient()
  const key = marksKey(visit, revisionId)
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
  const of = (mark: Schemas['Mark']) => ({ params: { path: { mark_id: mark.id } }, ...asGuest(visit) })
  return {
    marks,
    draw: useMutation({
      mutationFn: (news: Schemas['NewMark'][]) =>
        unwrap(
          api.POST('/api/guest/session/sheets/{revision_id}/marks', {
            params: { path: { revision_id: revisionId } },
            ...asGuest(visit),
            body: { marks: news },
          }),
        ),
      onSettled,
    }),
    reply: useMutation({
      mutationFn: ({ mark, text }: { mark: Schemas['Mark']; text: string }) =>
        unwrap(api.POST('/api/guest/session/marks/{mark_id}/replies', { ...of(mark), body: { text } })),
      onSettled,
    }),
    setState: useMutation({
      mutationFn: ({ mark, state }: { mark: Schemas['Mark']; state: MarkState }) =>
        unwrap(
          api.POST('/api/guest/session/marks/{mark_id}/state', {
            ...of(mark),
            body: { version: mark.version, state },
          }),
        ),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (mark: Schemas['Mark']) =>
        unwrap(
          api.POST('/api/guest/session/marks/{mark_id}/remove', {
            ...of(mark),
            body: { version: mark.version },
          }),
        ),
      onSettled,
    }),
  }
}

export type GuestActs = ReturnType<typeof useGuestMarks>

const SIGN_OF_LIFE_MS = 20_000

/** Says on which sheet one is, to those who are in the session; returns who is there. */
export function useGuestPresence(visit: Entered, revisionId: string, page: number, open: boolean) {
  const say = useRef<(leaves: boolean) => void>(() => undefined)
  useEffect(() => {
    say.current = (leaves) => {
      const body = { revision_id: revisionId, page, box: null, calls: false, leaves }
      unwrap(api.POST('/api/guest/session/here', { ...asGuest(visit), body, keepalive: leaves })).catch(
        () => undefined,
      )
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
