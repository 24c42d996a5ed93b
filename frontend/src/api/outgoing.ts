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
  what: 'draw' | 'state' | 'reply'
  /** Where it is sent. */
  path: string
  body: Record<string, unknown>
  /** The sheet that it is on. */
  revisionId: string
  at: number
  /** Where what is sent was typed: the key of its draft. */
  draft?: string
}

interface Sender {
  /** The place of the storage that it is kept in. */
  place: () => string
  storage: () => Storage
  headers: Record<string, string>
  /** What is done where an act is refused; null where that is told. */
  instead: (each: Outgoing, error: unknown) => Promise<unknown> | null
  /** The queries that are had anew when something left behind was done. */
  touched: (each: Outgoing) => Parameters<QueryClient['invalidateQueries']>[0]
}

const NONE: readonly Outgoing[] = []
const AGAIN_MS = 3000

/** Nobody is signed in, too much at once, or Nod is not there behind its proxy. */
const LATER = new Set([401, 429, 502, 503, 504])
/** No answer to the act itself: it is tried again. */
const isOpen = (error: unknown) =>
  isOffline(error) || (error instanceof Refused && LATER.has(error.problem.status))

/** What goes out from somebody's hand, and waits where there is no line. */
export class Outbox {
  /** Those that a page of this tab has in hand: it sends them itself. */
  private readonly mine = new Set<string>()
  private readonly listeners = new Set<() => void>()
  private shown = NONE
  private read = ''

  constructor(private readonly by: Sender) {}

  readonly all = (): readonly Outgoing[] => {
    const text = this.by.storage().getItem(this.by.place()) ?? ''
    if (text !== this.read) {
      this.read = text
      this.shown = text ? (JSON.parse(text) as Outgoing[]) : NONE
    }
    return this.shown
  }

  private put(next: readonly Outgoing[]) {
    const storage = this.by.storage()
    try {
      if (next.length) storage.setItem(this.by.place(), JSON.stringify(next))
      else storage.removeItem(this.by.place())
    } catch {
      // Without room there it waits in this page alone.
    }
    this.tell()
  }

  private tell() {
    for (const listener of this.listeners) listener()
  }

  private drop(key: string) {
    this.put(this.all().filter((each) => each.key !== key))
  }

  private leave(key: string) {
    this.mine.delete(key)
    this.tell()
  }

  readonly listen = (listener: () => void) => {
    this.listeners.add(listener)
    window.addEventListener('storage', listener)
    return () => {
      this.listeners.delete(listener)
      window.removeEventListener('storage', listener)
    }
  }

  /** Those that no page of this tab has in hand: left by a reload, or by another tab. */
  left(): readonly Outgoing[] {
    return this.all().filter((each) => !this.mine.has(each.key))
  }

  private async send<T>(each: Outgoing): Promise<T> {
    const { headers } = once(each.key)
    const all = { headers: { ...this.by.headers, ...headers } }
    try {
      return await unwrapAs<T>(api.POST(each.path as never, { ...all, body: each.body } as never))
    } catch (error) {
      const instead = this.by.instead(each, error)
      if (instead) return (await instead) as T
      throw error
    }
  }

  /** Sends an act that is kept until it is answered. */
  async sendKept<T>(act: Omit<Outgoing, 'at'>): Promise<T> {
    const each = { ...act, at: Date.now() }
    this.mine.add(each.key)
    if (!this.all().some((other) => other.key === each.key)) this.put([...this.all(), each])
    try {
      const answer = await this.send<T>(each)
      this.drop(each.key)
      return answer
    } catch (error) {
      if (!isOpen(error)) this.drop(each.key)
      // What the page does not try again by itself is left to those that wait.
      else if (!isOffline(error)) this.leave(each.key)
      throw error
    }
  }

  async sendLeft(client: QueryClient, onSent: (each: Outgoing) => void) {
    for (const each of this.left()) {
      try {
        await this.send(each)
        onSent(each)
      } catch (error) {
        if (isOpen(error)) return
        const why = error instanceof Error ? error.message : ''
        tellTrouble(`What waited for the line could not be done: ${why}${typedIn(each)}`)
      }
      this.drop(each.key)
      await client.invalidateQueries(this.by.touched(each))
    }
  }
}

/** What somebody wrote is not lost with what could not be done. */
function typedIn({ body }: Outgoing): string {
  const marks = (body['marks'] ?? [body]) as { text?: string }[]
  const texts = marks.flatMap(({ text }) => (text ? [`“${text}”`] : []))
  return texts.length ? ` You had written: ${texts.join(', ')}` : ''
}

/** Those that wait and that no page of this tab has in hand. */
export function useLeftBehind(box: Outbox): readonly Outgoing[] {
  useSyncExternalStore(box.listen, box.all)
  return box.left()
}

/** Sends what was left behind, in its order, as soon as there is a line. */
export function useSendingLeft(box: Outbox, onSent: (each: Outgoing) => void): void {
  const client = useQueryClient()
  useEffect(() => {
    let going = false
    const go = async () => {
      if (going) return
      going = true
      try {
        await box.sendLeft(client, onSent)
      } finally {
        going = false
      }
    }
    void go()
    const again = setInterval(() => void go(), AGAIN_MS)
    return () => clearInterval(again)
  }, [box, client, onSent])
}

/** What was drawn into a session that has closed meanwhile stays with its author, in pencil. */
function inPencil(each: Outgoing, error: unknown): Promise<unknown> | null {
  const closed = error instanceof Refused && error.problem.code === 'session_closed'
  if (each.what !== 'draw' || !closed) return null
  const path = { params: { path: { revision_id: each.revisionId } } }
  const body = { marks: each.body['marks'] } as never
  const kept = unwrapAs(
    api.POST('/api/sheets/{revision_id}/marks', { ...path, ...once(`${each.key}-pencil`), body }),
  )
  return kept.then((answer) => {
    tellTrouble('The session has closed meanwhile. What you drew is there in pencil, for you alone.')
    return answer
  })
}

/** What goes out from whoever is signed in. */
export const outbox = new Outbox({
  place: () => `nod.outgoing.${whose()}`,
  storage: () => localStorage,
  headers: {},
  instead: inPencil,
  touched: (each) => ({ queryKey: ['marks', each.revisionId] }),
})

const visits = new Map<string, Outbox>()

/** What goes out in a visit by a link: gone with the window, as the visit is. */
export function outboxOf(guest: string): Outbox {
  const found =
    visits.get(guest) ??
    new Outbox({
      place: () => `nod.outgoing.${guest}`,
      storage: () => sessionStorage,
      headers: { 'X-Nod-Guest': guest },
      instead: () => null,
      touched: () => ({ queryKey: ['guest'] }),
    })
  visits.set(guest, found)
  return found
}
