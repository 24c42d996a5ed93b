/** What went wrong with an act that has no place of its own on the page, as a download. */

let trouble: unknown = null
const listeners = new Set<() => void>()

export function tellTrouble(next: unknown): void {
  trouble = next
  for (const listener of listeners) listener()
}

export const troubleNow = () => trouble

export function onTrouble(listener: () => void): () => void {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}
