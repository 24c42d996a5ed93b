import { useRef, useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { useReadAgain, type DocumentChange } from './useRegister'

/** So many go in one act: others can do something between one and the next. */
export const AT_ONCE = 400

/**
 * Changes any number of documents, some hundred an act, with a count of those that are done; it can be stopped between.
 * Answers with what would take back all that was done, also where something stopped it: `error` says what.
 */
export function useChangeMany() {
  const { project } = useSeat()
  const again = useReadAgain()
  const [done, setDone] = useState<{ count: number; of: number } | null>(null)
  const [error, setError] = useState<unknown>(null)
  const stopped = useRef(false)

  async function change(changes: readonly DocumentChange[]) {
    const undo: DocumentChange[] = []
    stopped.current = false
    setError(null)
    let failed = false
    try {
      for (let from = 0; from < changes.length && !stopped.current; from += AT_ONCE) {
        setDone({ count: from, of: changes.length })
        const part = changes.slice(from, from + AT_ONCE)
        const answer = await unwrap(
          api.POST('/api/documents/change', { body: { project_id: project.id, changes: part } }),
        )
        undo.push(...answer.undo)
      }
    } catch (caught) {
      setError(caught)
      failed = true
    }
    setDone(null)
    again()
    return { undo, failed }
  }

  return { change, done, error, stop: () => (stopped.current = true) }
}
