import { useEffect, useId, useRef, useSyncExternalStore, type KeyboardEvent as ReactKeys } from 'react'

/** What a key does, in words, and its act: what has no words cannot be bound, so that the help can list them all. */
export type Bound = readonly [words: string, act: () => void]

/** By the name of the key: `m`, `Ctrl+z` (or ⌘), `Ctrl+Shift+z`, `Shift+ArrowUp`. */
export type Keys = Record<string, Bound>

const WITH_SHIFT = /^(Arrow|Page|Home|End)/

interface Pressed {
  key: string
  ctrlKey: boolean
  metaKey: boolean
  shiftKey: boolean
}

export function keyName({ key, ctrlKey, metaKey, shiftKey }: Pressed): string {
  if (ctrlKey || metaKey) return `Ctrl+${shiftKey ? 'Shift+' : ''}${key.toLowerCase()}`
  return shiftKey && WITH_SHIFT.test(key) ? `Shift+${key}` : key
}

interface Table {
  id: string
  /** Where the keys work: `this screen`, `the list`. */
  where: string
  keys: Keys
}

let tables: readonly Table[] = []
const listeners = new Set<() => void>()

function put(next: readonly Table[]) {
  tables = next
  for (const listener of listeners) listener()
}

function listen(listener: () => void) {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

/** All keys that are bound at the moment, as they are: the help shows these and no others. */
export function useBoundKeys(): readonly Table[] {
  return useSyncExternalStore(listen, () => tables)
}

const wordsOf = (keys: Keys) =>
  Object.entries(keys)
    .map(([key, [words]]) => `${key} ${words}`)
    .join('\n')

/** Makes a table known to the help as long as its screen is there. */
function useKnown(where: string, keys: Keys) {
  const id = useId()
  const words = wordsOf(keys)
  const kept = useRef(keys)
  useEffect(() => {
    kept.current = keys
  })
  useEffect(() => {
    if (words) put([...tables.filter((each) => each.id !== id), { id, where, keys: kept.current }])
    return () => put(tables.filter((each) => each.id !== id))
  }, [id, where, words])
}

/** Keys of a screen. Not while somebody types or a dialog is open, but with `always`. */
export function useKeys(keys: Keys, where = 'this screen', always = false): void {
  const kept = useRef(keys)
  useEffect(() => {
    kept.current = keys
  })
  useKnown(where, keys)
  useEffect(() => {
    const heard = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input:not([type=checkbox]), textarea, select')
      const busy = typing || document.querySelector('[role=dialog]')
      if (event.altKey || (busy && !always)) return
      // What is selected as text is copied as text.
      if (keyName(event) === 'Ctrl+c' && window.getSelection()?.toString()) return
      const bound = kept.current[keyName(event)]
      if (!bound) return
      event.preventDefault()
      bound[1]()
    }
    window.addEventListener('keydown', heard)
    return () => window.removeEventListener('keydown', heard)
  }, [always])
}

/** Keys of a part that has the focus, a list or a grid: what it does with a key that is pressed in it. */
export function usePartKeys(where: string, keys: Keys, unless = 'button, input, select, a') {
  useKnown(where, keys)
  return (event: ReactKeys) => {
    const bound = keys[keyName(event)]
    if (!bound || (event.target as HTMLElement).closest(unless)) return
    event.preventDefault()
    bound[1]()
  }
}
