import { useEffect, useRef } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { inTurn } from '../../../domain/inTurn'

type Here = Schemas['Here']

const AT_MOST_EVERY_MS = 500
const SIGN_OF_LIFE_MS = 20_000

/** What is said in passing is not told where it fails: the next saying tells it. */
const say = (sessionId: string, here: Here, more: { keepalive?: boolean } = {}) =>
  unwrap(
    api.POST('/api/sessions/{session_id}/here', {
      params: { path: { session_id: sessionId } },
      body: here,
      ...more,
    }),
  ).catch(() => undefined)

const sayInTurn = inTurn()

/**
 * Says where one looks to those who are in the session: as one moves at most twice a second, and now and then as a sign
 * of life. Returns what says it anew, and what calls all to where one looks.
 */
export function useBeHere(sessionId: string, revisionId: string, page: number) {
  const last = useRef<{ box: Here['box']; at: number; waits: ReturnType<typeof setTimeout> | undefined }>({
    box: null,
    at: 0,
    waits: undefined,
  })
  const here = (more: Partial<Here> = {}): Here => ({
    revision_id: revisionId,
    page,
    box: last.current.box ?? null,
    calls: false,
    leaves: false,
    ...more,
  })
  const saying = useRef(() => undefined as void)
  useEffect(() => {
    saying.current = () => {
      if (!sessionId) return
      last.current.at = Date.now()
      const now = here()
      sayInTurn(() => say(sessionId, now))
    }
  })
  useEffect(() => {
    if (!sessionId) return
    const kept = last.current
    saying.current()
    const alive = setInterval(() => saying.current(), SIGN_OF_LIFE_MS)
    return () => {
      clearInterval(alive)
      clearTimeout(kept.waits)
      kept.waits = undefined
    }
  }, [sessionId, revisionId, page])
  useLeaving(sessionId, revisionId)
  return {
    moved: (box: [number, number, number, number]) => {
      const kept = last.current
      if (String(kept.box) === String(box)) return
      kept.box = box
      if (!sessionId || kept.waits) return
      const rest = Math.max(0, AT_MOST_EVERY_MS - (Date.now() - kept.at))
      kept.waits = setTimeout(() => {
        kept.waits = undefined
        saying.current()
      }, rest)
    },
    callAll: () => void say(sessionId, here({ calls: true })),
  }
}

/** Says that one is not there any more. */
function useLeaving(sessionId: string, revisionId: string) {
  useEffect(() => {
    if (!sessionId) return
    const gone = { revision_id: revisionId, page: 0, box: null, calls: false, leaves: true }
    const leave = () => say(sessionId, gone, { keepalive: true })
    // Nothing that waits goes out of a page that is closed.
    const close = () => void leave()
    window.addEventListener('pagehide', close)
    return () => {
      window.removeEventListener('pagehide', close)
      // To the next sheet of the same room is no leaving.
      setTimeout(() => {
        if (new URLSearchParams(location.search).get('session') !== sessionId) sayInTurn(leave)
      })
    }
  }, [sessionId, revisionId])
}
