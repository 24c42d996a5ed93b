import { useEffect, useRef } from 'react'

/** Keys of a screen. Not while somebody types or a dialog is open. */
export function useKeys(keys: Record<string, () => void>): void {
  const kept = useRef(keys)
  useEffect(() => {
    kept.current = keys
  })
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input:not([type=checkbox]), textarea, select')
      if (typing || event.ctrlKey || event.metaKey || event.altKey || document.querySelector('[role=dialog]'))
        return
      const act = kept.current[event.key]
      if (!act) return
      event.preventDefault()
      act()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}
