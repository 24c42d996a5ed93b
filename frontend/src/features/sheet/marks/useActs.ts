import { useRef, useState } from 'react'

import type { Change, Mark, Marks, NewMark } from './useMarks'

/** One's own act on a sheet, as much of it as taking it back and doing it again need. */
type Act =
  | { kind: 'drawn'; ids: string[] }
  | { kind: 'removed'; ids: string[] }
  | { kind: 'changed'; before: Map<string, Change>; after: Map<string, Change> }

/** What is wanted of a mark; a function where that depends on how it stands when it is asked for. */
export interface Wanted {
  mark: Mark
  to: Change | ((now: Mark) => Change)
}

interface Stacks {
  done: readonly Act[]
  undone: readonly Act[]
}

/**
 * Acts on one's own marks that can be undone and done again, whatever others did meanwhile: marks are fetched anew
 * before each, and only their author changes them.
 */
export function useActs(marks: Marks) {
  const [{ done, undone }, setStacks] = useState<Stacks>({ done: [], undone: [] })
  const [trouble, setTrouble] = useState<unknown>(null)
  const stacks = useRef<Stacks>({ done: [], undone: [] })
  /** Everything that was asked for so far: an undo pressed meanwhile means the last of these. */
  const before = useRef<Promise<unknown>>(Promise.resolve())

  /** What follows an act, for each of several that overlap; a refusal is shown by the list of marks. */
  function heard<T>(sent: Promise<T>, then: (answer: T) => void): void {
    // In the order in which they were asked for, whichever is answered first: undo goes back along it.
    const earlier = before.current
    const followed = sent.then(
      (answer) => earlier.then(() => then(answer)),
      () => undefined,
    )
    before.current = Promise.all([earlier, followed])
  }

  function put(next: Stacks) {
    stacks.current = next
    setStacks(next)
    setTrouble(null)
  }

  const did = (act: Act) => put({ done: [...stacks.current.done, act], undone: [] })

  async function apply(act: Act, back: boolean) {
    await marks.settled()
    if ((act.kind === 'drawn') === back && act.kind !== 'changed') {
      const now = (await marks.fetchNow()).filter((mark) => act.ids.includes(mark.id))
      if (now.length) await marks.remove.mutateAsync(now)
    } else if (act.kind !== 'changed') {
      await marks.bringBack.mutateAsync(act.ids)
    } else {
      const values = back ? act.before : act.after
      const now = await marks.fetchNow()
      const changes = now.flatMap((mark) => {
        const to = values.get(mark.id)
        return to ? [{ mark, to }] : []
      })
      if (changes.length) await marks.change.mutateAsync(changes)
    }
  }

  /** One after the other: the next must meet what this one leaves, however fast the keys are pressed. */
  function step(back: boolean) {
    before.current = before.current.then(() => takeStep(back)).catch(setTrouble)
  }

  async function takeStep(back: boolean) {
    const { done: acts, undone: waiting } = stacks.current
    const act = back ? acts[acts.length - 1] : waiting[waiting.length - 1]
    if (!act) return
    const rest = back
      ? { done: acts.slice(0, -1), undone: waiting }
      : { done: acts, undone: waiting.slice(0, -1) }
    try {
      await apply(act, back)
    } catch (error) {
      // What cannot be taken back any more (somebody has answered) must not stand before what can.
      put(rest)
      throw error
    }
    put(back ? { ...rest, undone: [...waiting, act] } : { ...rest, done: [...acts, act] })
  }

  return {
    canUndo: done.length > 0,
    canRedo: undone.length > 0,
    trouble,
    undo: () => step(true),
    redo: () => step(false),
    draw: (news: NewMark[], then: (drawn: Mark[]) => void) =>
      heard(marks.draw.mutateAsync(news), (drawn) => {
        did({ kind: 'drawn', ids: drawn.map((mark) => mark.id) })
        then(drawn)
      }),
    change: (wanted: readonly Wanted[]) => {
      // Not as they stood when the screen was drawn: between two keys it may not have been drawn again.
      const changes = wanted.map(({ mark, to }) => {
        const now = marks.latest(mark)
        return { mark: now, to: typeof to === 'function' ? to(now) : to }
      })
      const before = new Map(changes.map(({ mark, to }) => [mark.id, wasBefore(mark, to)]))
      const after = new Map(changes.map(({ mark, to }) => [mark.id, to]))
      heard(marks.change.mutateAsync(changes), () => did({ kind: 'changed', before, after }))
    },
    remove: (gone: readonly Mark[], then: () => void) =>
      heard(marks.remove.mutateAsync(gone), () => {
        did({ kind: 'removed', ids: gone.map((mark) => mark.id) })
        then()
      }),
  }
}

export type Acts = ReturnType<typeof useActs>

/** What would take a change back. */
function wasBefore(mark: Mark, to: Change): Change {
  const before: Change = {
    points: mark.points,
    rings: mark.rings,
    look: mark.look,
    text: mark.text,
    label: mark.label,
    discipline: mark.discipline,
    meant_for: mark.meant_for?.id ?? '',
    locked: mark.locked,
    rank: mark.rank,
  }
  // With a discipline the ink may change too.
  const touched = to.discipline === undefined ? to : { ...to, look: mark.look }
  return Object.fromEntries(
    Object.entries(before).filter(([key]) => touched[key as keyof Change] !== undefined),
  )
}
