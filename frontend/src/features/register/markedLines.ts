import { useCallback, useSyncExternalStore } from 'react'

import { useSeat } from '../../api/me'
import type { ChosenLine } from '../../ui/chosen'

/** What acts on a marked document need to know of it. */
export type Marked = Pick<ChosenLine, 'id' | 'version' | 'number' | 'revision_id'>

const NONE: ReadonlyMap<string, Marked> = new Map()
const marked = new Map<string, ReadonlyMap<string, Marked>>()
const listeners = new Set<() => void>()

function put(of: string, next: ReadonlyMap<string, Marked>) {
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
    (those: readonly Marked[], on: boolean) => {
      const next = new Map(marked.get(of))
      for (const each of those)
        if (on) next.set(each.id, each)
        else next.delete(each.id)
      put(of, next)
    },
    [of],
  )
  /** What is known of marked lines anew: they stand elsewhere after they were changed. */
  const know = useCallback(
    (those: readonly Pick<Marked, 'id' | 'version'>[]) => {
      const next = new Map(marked.get(of))
      for (const { id, version } of those) {
        const old = next.get(id)
        if (old) next.set(id, { ...old, version })
      }
      put(of, next)
    },
    [of],
  )
  const forget = useCallback(() => put(of, NONE), [of])
  return { marked: lines, mark, know, forget }
}
