import { useEffect, useRef } from 'react'

function nameOf(event: KeyboardEvent): string {
  if (!event.ctrlKey && !event.metaKey) return event.key
  return `Ctrl+${event.shiftKey ? 'Shift+' : ''}${event.key.toLowerCase()}`
}

/** Keys of a screen, with Ctrl (or ⌘) as `Ctrl+z` and `Ctrl+Shift+z`. Not while somebody types or a dialog is open. */
export function useKeys(keys: Record<string, () => void>): void {
  const kept = useRef(keys)
  useEffect(() => {
    kept.current = keys
  })
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input:not([type=checkbox]), textarea, select')
      if (typing || event.altKey || document.querySelector('[role=dialog]')) return
      // What is selected as text is copied as text.
      if (nameOf(event) === 'Ctrl+c' && window.getSelection()?.toString()) return
      const act = kept.current[nameOf(event)]
      if (!act) return
      event.preventDefault()
      act()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}
