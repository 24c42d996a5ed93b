import { useEffect, useRef } from 'react'

import type { Schemas } from '../../../api/client'
import { useSteady } from '../../../ui/useSteady'

type Mark = Schemas['Mark']

export const TOGETHER_MS = 400

/** The first that is told is taken at once; what follows on its heels is taken together: each drawing has its price. */
export function useGathered(takeAll: (told: readonly Mark[], gone: readonly string[]) => void) {
  const waiting = useRef({ told: [] as Mark[], gone: [] as string[], timer: 0, at: 0 })
  const flush = useSteady(() => {
    const { told, gone } = waiting.current
    waiting.current = { told: [], gone: [], timer: 0, at: performance.now() }
    if (told.length || gone.length) takeAll(told, gone)
  })
  useEffect(
    () => () => {
      window.clearTimeout(waiting.current.timer)
      flush()
    },
    [flush],
  )
  return useSteady((told: readonly Mark[], gone: readonly string[]) => {
    const now = waiting.current
    now.told = [...now.told.filter((mark) => !gone.includes(mark.id)), ...told]
    now.gone = [...now.gone, ...gone]
    const left = now.at + TOGETHER_MS - performance.now()
    if (left <= 0) flush()
    else if (!now.timer) now.timer = window.setTimeout(flush, left)
  })
}
