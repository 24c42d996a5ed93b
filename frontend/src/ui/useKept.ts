import { useContext, useEffect, useState, useSyncExternalStore } from 'react'

import { newKey, once } from '../api/client'
import { SeatContext } from '../api/me'
import { Refused } from '../api/problems'
import type { FormName } from '../domain/forms'
import { keepDraft, keyOf, onDrafts, readDraft, showDraft, type Draft } from './drafts'

type Next<T> = T | ((now: T) => T)

/** A form whose fields are kept until it is sent or discarded. */
export interface Kept {
  form: FormName
  key: string
  draft: Draft | null
  /** By which what is sent from this form is done once, until it is through. */
  once: string
  /** Changes a field; one that is as it was untouched is not kept. */
  put: (field: string, value: unknown, initial: unknown) => void
  /** It was sent, or discarded. */
  drop: () => void
  /** What is sent from now on is another act than before. */
  renew: () => void
}

/** What a field is kept by; or why it is not: it only narrows what is shown, or it is a secret. */
export type Keep = Kept | 'passing' | 'secret'

const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other)

/**
 * The one way to hold what is being typed. It is kept by the person, the form and the thing (`of`), over tabs, panels,
 * back and forward, reloads and an ended session; `words` names the thing where drafts are listed.
 */
export function useKept(form: FormName, of: string, words = ''): Kept {
  const seat = useContext(SeatContext)
  const key = keyOf(ownerOf(seat?.me), form, of)
  const draft = useSyncExternalStore(onDrafts, () => readDraft(key))
  useEffect(() => showDraft(key), [key])
  const [fresh, setFresh] = useState(newKey)
  const onceKey = draft?.once ?? fresh
  return {
    form,
    key,
    draft,
    once: onceKey,
    put: (field, value, initial) => {
      const fields = { ...readDraft(key)?.fields, [field]: value }
      if (same(value, initial)) delete fields[field]
      const address = `${location.pathname}${location.search}`
      const any = Object.keys(fields).length > 0
      keepDraft(key, any ? { form, of, words, address, at: Date.now(), once: onceKey, fields } : null)
    },
    drop: () => {
      keepDraft(key, null)
      setFresh(newKey())
    },
    renew: () => {
      const now = readDraft(key)
      const next = newKey()
      if (now) keepDraft(key, { ...now, once: next })
      setFresh(next)
    },
  }
}

/**
 * A field of a kept form: its value, and how it is changed. `initial` is what it holds untouched; with `hold` that is
 * not known to be so yet, as what was sent may still be refused.
 */
export function useField<T>(
  kept: Kept,
  field: string,
  initial: T,
  hold = false,
): [T, (next: Next<T>) => void] {
  const valueIn = (draft: Draft | null) =>
    draft && field in draft.fields ? (draft.fields[field] as T) : initial
  const value = valueIn(kept.draft)
  const idle = !hold && kept.draft !== null && field in kept.draft.fields && same(value, initial)
  // What was typed has become what is there: it was sent.
  useEffect(() => {
    if (idle) kept.put(field, initial, initial)
  })
  // What is kept, not what was drawn last: two changes may come in one moment.
  const set = (next: Next<T>) => {
    const now = valueIn(readDraft(kept.key))
    kept.put(field, typeof next === 'function' ? (next as (now: T) => T)(now) : next, initial)
  }
  return [value, set]
}

const DONE = new Set(['done_already', 'done_otherwise'])

/**
 * Sends what a form holds so that it is done once: pressed twice, or sent again after the line broke. What was sent is
 * dropped, also when its form has left the screen meanwhile; what was typed after the press stays.
 */
export async function sendOnce<T>(
  kept: Kept,
  send: (more: ReturnType<typeof once>) => Promise<T>,
): Promise<T> {
  const draft = readDraft(kept.key)
  try {
    const answer = await send(once(kept.once))
    if (readDraft(kept.key) === draft) kept.drop()
    else kept.renew()
    return answer
  } catch (error) {
    // Somebody who has read that it was done, and presses again, means another one.
    if (error instanceof Refused && DONE.has(error.problem.code)) kept.renew()
    throw error
  }
}

/** What a form held went out after its page was gone, by its key: it is dropped, unless something else is typed by now. */
export function sentLater(key: string, onceKey: string, text: unknown): void {
  const draft = readDraft(key)
  if (draft?.once !== onceKey) return
  keepDraft(key, same(draft.fields['text'], text) ? null : { ...draft, once: newKey() })
}

/** Through another's eyes nothing is typed, and nothing of theirs is shown. */
export function ownerOf(me: { person: { id: string }; looker: string } | undefined): string {
  return me ? `${me.looker && 'seen-as-'}${me.person.id}` : 'guest'
}
