import { useEffect, useSyncExternalStore } from 'react'
import { useQueryClient, type QueryClient } from '@tanstack/react-query'

import { api, once, unwrapAs, whose } from './client'
import { isOffline, Refused } from './problems'
import { tellTrouble } from './troubles'

/**
 * What was done while the line is down is kept here until an answer comes: over a reload, and in another tab. Each has
 * a key, by which the server does it once, however often and from wherever it is sent.
 */
export interface Outgoing {
  key: string
  what: 'draw' | 'state'
  /** Where it is sent. */
  path: string
  body: Record<string, unknown>
  /** The sheet that it is on. */
  revisionId: string
  at: number
}

const NONE: readonly Outgoing[] = []
/** Those that a page of this tab has in hand: it sends them itself. */
const mine = new Set<string>()
const listeners = new Set<() => void>()
const placeOf = (person: string) => `nod.outgoing.${person}`
let shown: readonly Outgoing[] = NONE
let read = ''

function all(): readonly Outgoing[] {
  const text = localStorage.getItem(placeOf(whose())) ?? ''
  if (text !== read) {
    read = text
    shown = text ? (JSON.parse(text) as Outgoing[]) : NONE
  }
  return shown
}

function put(next: readonly Outgoing[]) {
  try {
    if (next.length) localStorage.setItem(placeOf(whose()), JSON.stringify(next))
    else localStorage.removeItem(placeOf(whose()))
  } catch {
    // Without room there it waits in this page alone.
  }
  for (const listener of listeners) listener()
}

const drop = (key: string) => put(all().filter((each) => each.key !== key))

function listen(listener: () => void): () => void {
  listeners.add(listener)
  window.addEventListener('storage', listener)
  return () => {
    listeners.delete(listener)
    window.removeEventListener('storage', listener)
  }
}

/** Those that wait and that no page of this tab has in hand: left by a reload, or by another tab. */
export function useLeftBehind(): readonly Outgoing[] {
  return useSyncExternalStore(listen, all).filter((each) => !mine.has(each.key))
}

const post = <T>(each: Outgoing, path = each.path, body = each.body, key = each.key) =>
  unwrapAs<T>(api.POST(path as never, { ...once(key), body } as never))

const isClosed = (error: unknown) => error instanceof Refused && error.problem.code === 'session_closed'
/** Nobody is signed in, too much at once, or Nod is not there behind its proxy. */
const LATER = new Set([401, 429, 502, 503, 504])
/** No answer to the act itself: it is tried again. */
const isOpen = (error: unknown) =>
  isOffline(error) || (error instanceof Refused && LATER.has(error.problem.status))

/** What was drawn into a session that has closed meanwhile stays with its author, in pencil. */
async function inPencil<T>(each: Outgoing): Promise<T> {
  const answer = await post<T>(
    each,
    `/api/sheets/${each.revisionId}/marks`,
    { marks: each.body['marks'] },
    `${each.key}-pencil`,
  )
  tellTrouble('The session has closed meanwhile. What you drew is there in pencil, for you alone.')
  return answer
}

async function send<T>(each: Outgoing): Promise<T> {
  try {
    return await post<T>(each)
  } catch (error) {
    if (each.what === 'draw' && isClosed(error)) return inPencil<T>(each)
    throw error
  }
}

/** Sends an act that is kept until it is answered. */
export async function sendKept<T>(each: Omit<Outgoing, 'at'>): Promise<T> {
  mine.add(each.key)
  if (!all().some((other) => other.key === each.key)) put([...all(), { ...each, at: Date.now() }])
  try {
    const answer = await send<T>({ ...each, at: 0 })
    drop(each.key)
    return answer
  } catch (error) {
    if (!isOpen(error)) drop(each.key)
    // What the page does not try again by itself is left to those that wait.
    else if (!isOffline(error)) leave(each.key)
    throw error
  }
}

function leave(key: string) {
  mine.delete(key)
  for (const listener of listeners) listener()
}

async function sendLeft(client: QueryClient) {
  for (const each of all().filter((other) => !mine.has(other.key))) {
    try {
      await send(each)
    } catch (error) {
      if (isOpen(error)) return
      tellTrouble(
        `What waited for the line could not be done: ${error instanceof Error ? error.message : ''}`,
      )
    }
    drop(each.key)
    await client.invalidateQueries({ queryKey: ['marks', each.revisionId] })
  }
}

const AGAIN_MS = 3000

/** Sends what was left behind, in its order, as soon as there is a line. */
export function useSendingLeft(): void {
  const client = useQueryClient()
  useEffect(() => {
    let going = false
    const go = async () => {
      if (going) return
      going = true
      try {
        await sendLeft(client)
      } finally {
        going = false
      }
    }
    void go()
    const again = setInterval(() => void go(), AGAIN_MS)
    return () => clearInterval(again)
  }, [client])
}
