import { useCallback, useEffect, useRef } from 'react'

/**
 * What an answer does to the page, done only if one is still where one asked: closing, leading on. Who has gone to
 * something else meanwhile is not taken away from it. What belongs to the data (fetching anew, dropping what was typed)
 * is done in any case.
 */
export function useHere() {
  const here = useRef(false)
  useEffect(() => {
    here.current = true
    return () => {
      here.current = false
    }
  }, [])
  return useCallback(<R>(act: () => R): R | undefined => (here.current ? act() : undefined), [])
}
