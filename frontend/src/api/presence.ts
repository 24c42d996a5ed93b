import { useSyncExternalStore } from 'react'

export interface Place {
  revision: string
  page: number
  /** In PDF points: left, low, right, high. */
  box: [number, number, number, number] | null
}

/** Somebody in a session, as they were said to be last. */
export interface Present extends Place {
  who: string
  name: string
  company: string
  guest: boolean
  left: boolean
  /** Where they called all who are there to, and when. */
  call: (Place & { called_at: string }) | null
}

interface Heard {
  person: Present
  at: number
}

const GONE_MS = 45_000
const NOBODY: readonly Present[] = []

const sessions = new Map<string, Map<string, Heard>>()
const shown = new Map<string, readonly Present[]>()
const listeners = new Set<() => void>()

function show(sessionId: string) {
  const now = Date.now()
  const there = [...(sessions.get(sessionId)?.values() ?? [])]
    .filter(({ person, at }) => !person.left && now - at < GONE_MS)
    .map(({ person }) => person)
  shown.set(
    sessionId,
    there.sort((a, b) => a.name.localeCompare(b.name)),
  )
  for (const listener of listeners) listener()
}

/** What the live channel says of who is where. */
export function hearPresence(told: Record<string, Present[]>): void {
  for (const [sessionId, people] of Object.entries(told)) {
    const there = sessions.get(sessionId) ?? new Map<string, Heard>()
    for (const person of people) there.set(person.who, { person, at: Date.now() })
    sessions.set(sessionId, there)
    show(sessionId)
  }
}

/** Those who have said nothing for long are not there any more. */
const SWEEP_MS = 15_000
function listen(listener: () => void): () => void {
  listeners.add(listener)
  const sweep = setInterval(() => {
    for (const sessionId of sessions.keys()) show(sessionId)
  }, SWEEP_MS)
  return () => {
    listeners.delete(listener)
    clearInterval(sweep)
  }
}

/** Who is in a session now, by name; myself too, as others hear of me. */
export function usePresence(sessionId: string): readonly Present[] {
  return useSyncExternalStore(listen, () => shown.get(sessionId) ?? NOBODY)
}
