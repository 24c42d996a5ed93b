import { useEffect, useRef } from 'react'

/**
 * For a list to which lines are added: `added()` when one is, and once it stands there its first field comes into view,
 * as what has the focus does, and takes what is typed. `list` goes on the element whose children the lines are.
 */
export function useNewLine<T extends HTMLElement>() {
  const list = useRef<T>(null)
  const wanted = useRef(false)
  useEffect(() => {
    if (!wanted.current) return
    wanted.current = false
    list.current?.lastElementChild?.querySelector<HTMLElement>('input, select, textarea')?.focus()
  })
  return { list, added: () => void (wanted.current = true) }
}
