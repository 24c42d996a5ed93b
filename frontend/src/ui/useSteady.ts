import { useCallback, useEffect, useRef } from 'react'

/** A function that is the same at every drawing and does what the newest would: for what is not to be drawn anew. */
export function useSteady<Args extends unknown[], Answer>(
  act: (...args: Args) => Answer,
): (...args: Args) => Answer {
  const newest = useRef(act)
  useEffect(() => {
    newest.current = act
  })
  return useCallback((...args: Args) => newest.current(...args), [])
}
