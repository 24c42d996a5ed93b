import type { QueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'

import type { Schemas } from './client'
import { fetcher, type Again } from './fetchAgain'
import { keysOf, type Key } from './keys'
import { markStale } from './markStale'
import { hearPresence, type Present } from './presence'

export type LiveState = 'joining' | 'live' | 'away' | 'crowded'

export interface Change {
  topic: string
  subject: string
  project: string
  by: string
  /** What the event brings along, by topic: marks, and ids of those that are gone. */
  marks?: Schemas['Mark'][]
  gone?: string[]
}

const listeners = new Set<(change: Change) => void>()

/** Be told of changes one by one, for lists that must not jump. */
export function useChanges(listener: (change: Change) => void): void {
  useEffect(() => {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  }, [listener])
}

/** Takes over what an event brings; returns what need not be fetched for that. */
type Taker = (change: Change) => readonly Key[]
const takers = new Set<Taker>()

/** Take over what events bring along, for what is shown: nothing is fetched for it. */
export function useTaker(taker: Taker): void {
  const newest = useRef(taker)
  useEffect(() => {
    newest.current = taker
  })
  useEffect(() => {
    const take: Taker = (change) => newest.current(change)
    takers.add(take)
    return () => void takers.delete(take)
  }, [])
}

function hear(change: Change, fetchAgain: (what: Again) => void) {
  const taken = new Set([...takers].flatMap((take) => take(change)))
  for (const what of keysOf(change.topic, change.subject)) if (!taken.has(what[0])) fetchAgain(what)
  for (const listener of listeners) listener(change)
}

const AGAIN_MS = 20_000

/** Whether it was refused because too many windows listen already; no more is asked than the head of the answer. */
async function isCrowded(address: string): Promise<boolean> {
  const ask = new AbortController()
  try {
    const answer = await fetch(address, { credentials: 'include', signal: ask.signal })
    return answer.status === 429
  } catch {
    return false
  } finally {
    ask.abort()
  }
}

/** Listens for as long as the component lives; the state is always to be shown. */
export function useLive(client: QueryClient, port: number, url: string): LiveState {
  const [state, setState] = useState<LiveState>('joining')
  const [tries, setTries] = useState(0)
  useEffect(() => {
    const here = url || `${location.protocol}//${location.hostname}:${port}/live`
    const fetchAgain = fetcher(client)
    const source = new EventSource(here, { withCredentials: true })
    let again: ReturnType<typeof setTimeout> | undefined
    source.addEventListener('start', () => setState('live'))
    source.addEventListener('missed', () => {
      setState('live')
      void markStale(client)
    })
    source.addEventListener('change', (event: MessageEvent<string>) => {
      hear(JSON.parse(event.data) as Change, fetchAgain)
    })
    source.addEventListener('here', (event: MessageEvent<string>) => {
      hearPresence(JSON.parse(event.data) as Record<string, Present[]>)
    })
    source.addEventListener('error', () => {
      setState((old) => (old === 'crowded' ? old : 'away'))
      // A refusal, and not a line that broke: the browser does not try again by itself.
      if (source.readyState !== EventSource.CLOSED) return
      clearTimeout(again)
      again = setTimeout(() => setTries((old) => old + 1), AGAIN_MS)
      void isCrowded(here).then((crowded) => crowded && setState('crowded'))
    })
    return () => {
      clearTimeout(again)
      source.close()
    }
  }, [client, port, url, tries])
  return state
}
