import { useSyncExternalStore } from 'react'

const NARROW = '(max-width: 767px)'

function listen(changed: () => void) {
  const query = window.matchMedia?.(NARROW)
  query?.addEventListener('change', changed)
  return () => query?.removeEventListener('change', changed)
}

/** Whether the window is as narrow as a phone's. */
export function useNarrow(): boolean {
  return useSyncExternalStore(listen, () => window.matchMedia?.(NARROW).matches ?? false)
}
