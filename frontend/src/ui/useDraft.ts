import { useState } from 'react'

import { useSeat } from '../api/me'

/** What is being typed, kept over tabs, panels and reloads for this person until it is sent or emptied. */
export function useDraft(of: string) {
  const { me } = useSeat()
  const key = `nod-draft ${me.person.id} ${of}`
  const [shown, setShown] = useState({ key, text: read(key) })
  if (shown.key !== key) setShown({ key, text: read(key) })
  const set = (next: string | ((now: string) => string)) => {
    // What is kept, not what was drawn last: two files may come at once.
    const text = typeof next === 'string' ? next : next(read(key))
    setShown({ key, text })
    keep(key, text)
  }
  return [shown.key === key ? shown.text : read(key), set] as const
}

function read(key: string): string {
  try {
    return sessionStorage.getItem(key) ?? ''
  } catch {
    // A browser that keeps nothing: what is typed lasts as long as the page.
    return ''
  }
}

function keep(key: string, text: string): void {
  try {
    if (text) sessionStorage.setItem(key, text)
    else sessionStorage.removeItem(key)
  } catch {
    // As above.
  }
}
