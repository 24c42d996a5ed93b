import type { FormName } from '../domain/forms'

/** What somebody has typed into a form and not sent: in the browser's storage, by person and thing. */
export interface Draft {
  form: FormName
  /** The thing that the form is about, and its words for a list. */
  of: string
  words: string
  /** Where it is typed, and when it was last. */
  address: string
  at: number
  /** The key under which it is done once when it is sent. */
  once: string
  fields: Readonly<Record<string, unknown>>
}

const HEAD = 'nod-draft '
const KEEP_MS = 30 * 24 * 3600 * 1000

/** Keys of storage are the owner's: another person on this browser never meets them. */
export const keyOf = (owner: string, form: FormName, of: string) => `${HEAD}${owner} ${form} ${of}`

/** What was read or written, by key. A browser that keeps nothing still has these as long as the page lives. */
const drafts = new Map<string, Draft | null>()
const listeners = new Set<() => void>()
/** How often each is on the screen. */
const shown = new Map<string, number>()

export interface Left {
  key: string
  draft: Draft
}
type Leaver = (left: Left) => void
const leavers = new Set<Leaver>()

export function readDraft(key: string): Draft | null {
  const known = drafts.get(key)
  if (known !== undefined) return known
  const found = parsed(stored(key))
  drafts.set(key, found)
  return found
}

/** Keeps a draft, or forgets it. */
export function keepDraft(key: string, draft: Draft | null): void {
  drafts.set(key, draft)
  try {
    if (draft) localStorage.setItem(key, JSON.stringify(draft))
    else localStorage.removeItem(key)
  } catch {
    // No storage, or it is full: what is typed lasts as long as the page.
  }
  tellAll()
}

export function onDrafts(listener: () => void): () => void {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

/** Be told of a form that leaves the screen with something unsent in it. */
export function onLeft(leaver: Leaver): () => void {
  leavers.add(leaver)
  return () => void leavers.delete(leaver)
}

/** A form with this key is on the screen until the answer is called. */
export function showDraft(key: string): () => void {
  shown.set(key, (shown.get(key) ?? 0) + 1)
  return () => {
    shown.set(key, (shown.get(key) ?? 1) - 1)
    // What is drawn anew elsewhere in the same moment has not left.
    setTimeout(() => {
      const draft = readDraft(key)
      if (draft && !shown.get(key)) for (const leaver of leavers) leaver({ key, draft })
    })
  }
}

export const isShown = (key: string) => Boolean(shown.get(key))

/** All drafts of a person, the newest first. */
export function draftsOf(owner: string): Left[] {
  const head = `${HEAD}${owner} `
  const keys = new Set([...drafts.keys(), ...storedKeys()].filter((key) => key.startsWith(head)))
  return [...keys]
    .flatMap((key) => {
      const draft = readDraft(key)
      return draft ? [{ key, draft }] : []
    })
    .sort((a, b) => b.draft.at - a.draft.at)
}

/** For tests: as if the page had been loaded anew. */
export function forgetPage(): void {
  drafts.clear()
  shown.clear()
  tellAll()
}

function tellAll() {
  for (const listener of listeners) listener()
}

function stored(key: string): string | null {
  try {
    return localStorage.getItem(key)
  } catch {
    return null
  }
}

function storedKeys(): string[] {
  try {
    return Object.keys(localStorage)
  } catch {
    return []
  }
}

function parsed(text: string | null): Draft | null {
  if (!text) return null
  try {
    const draft = JSON.parse(text) as Draft
    return Date.now() - draft.at < KEEP_MS ? draft : null
  } catch {
    return null
  }
}

// Another page of the same browser shows the same form.
if (typeof window !== 'undefined')
  window.addEventListener('storage', (event) => {
    if (!event.key?.startsWith(HEAD)) return
    drafts.set(event.key, parsed(event.newValue))
    tellAll()
  })
