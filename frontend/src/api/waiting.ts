import { onlineManager, type Mutation } from '@tanstack/react-query'

import { newKey, once } from './client'
import { isOffline } from './problems'

const AGAIN_MS = 2000

/**
 * For acts that wait while the line is down and go when it is back, in this page: they are sent again until an answer
 * comes. Each has a key, so that one whose answer was lost is not done twice.
 */
export const WAITING = {
  retry: (_tries: number, error: unknown) => isOffline(error),
  retryDelay: AGAIN_MS,
  networkMode: 'online' as const,
  meta: { waits: true },
}

/** Acts of this page that have been asked for and wait for the line. */
export const HELD = {
  status: 'pending' as const,
  predicate: ({ meta, state }: Mutation) =>
    meta?.['waits'] === true && (state.isPaused || state.failureCount > 0),
}

/** Whether an act that is asked for now will wait. */
export const isAway = () => !onlineManager.isOnline()

const keys = new WeakMap<object, string>()

/** The same key each time that the same act is sent. */
export function onceFor(act: object) {
  const key = keys.get(act) ?? newKey()
  keys.set(act, key)
  return once(key)
}

const bodies = new WeakMap<object, unknown>()

/** What an act says the first time it says each time: it may have been done, with only the answer lost. */
export function bodyOf<Body>(act: object, make: () => Body): Body {
  if (!bodies.has(act)) bodies.set(act, make())
  return bodies.get(act) as Body
}
