import { useCallback, useSyncExternalStore } from 'react'

import { useSeat } from '../../api/me'

const NONE: ReadonlySet<string> = new Set()
const marked = new Map<string, ReadonlySet<string>>()
const listeners = new Set<() => void>()

function put(of: string, next: ReadonlySet<string>) {
  marked.set(of, next)
  for (const listener of listeners) listener()
}

function listen(listener: () => void) {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

/** Lines that I have marked in a project's register: over a sheet that is looked at and back, as long as the page lives. */
export function useMarkedLines() {
  const { me, project } = useSeat()
  const of = `${me.person.id} ${project.id}`
  const lines = useSyncExternalStore(listen, () => marked.get(of) ?? NONE)
  const mark = useCallback(
    (ids: readonly string[], on: boolean) => {
      const next = new Set(marked.get(of))
      for (const id of ids)
        if (on) next.add(id)
        else next.delete(id)
      put(of, next)
    },
    [of],
  )
  const forget = useCallback(() => put(of, NONE), [of])
  return { marked: lines, mark, forget }
}
