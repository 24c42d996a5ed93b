import { useSyncExternalStore } from 'react'

/** What of a room stays as one goes from sheet to sheet. */
export interface RoomState {
  /** Whether what is drawn is ink at once. */
  ink: boolean
  /** Whether one sees where others look. */
  frames: boolean
  /** The one person whose frame is shown, by id; empty for all of them. */
  framed: string
  /** Whose view one follows, by id; empty for nobody's. */
  following: string
  /** The call that was answered last, by its time. */
  answered: string
  /** At the side: the marks, or what happened. */
  side: 'marks' | 'happened'
}

const FIRST: RoomState = {
  ...{ ink: true, frames: true, framed: '' },
  ...{ following: '', answered: '', side: 'marks' },
}

let sessionId = ''
let state = FIRST
const listeners = new Set<() => void>()

function listen(listener: () => void): () => void {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

export function setRoom(part: Partial<RoomState>): void {
  state = { ...state, ...part }
  for (const listener of listeners) listener()
}

/** Another session's room begins anew; calls from before one came are not for one. */
export function enterRoom(id: string, now: string): void {
  if (id === sessionId) return
  sessionId = id
  setRoom({ ...FIRST, answered: now })
}

export function useRoomState(): RoomState {
  return useSyncExternalStore(listen, () => state)
}
