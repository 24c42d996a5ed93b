import type { ComponentType, ReactNode } from 'react'

import { Refused } from '../../api/problems'
import { Button } from '../../ui/Button'
import { ErrorNote, Loading } from '../../ui/Notes'
import { useSetup, type Draft, type Setup } from './useSetup'
import { isLost } from '../../api/fetched'
import { isHalfTyped } from '../../ui/halfTyped'

interface Props {
  title: string
  about: string
  children: ReactNode
  acts?: ReactNode
}

/** A part of the set-up: what it is, what it does, and below it the thing itself. */
export function Section({ title, about, children, acts }: Props) {
  return (
    <section aria-label={title} className="flex h-full min-w-0 flex-1 flex-col">
      <header className="flex items-center gap-4 border-b border-line px-5 py-2">
        <div className="min-w-0 flex-1">
          <h1 className="text-head font-semibold">{title}</h1>
          <p className="text-note text-second">{about}</p>
        </div>
        {acts}
      </header>
      {children}
    </section>
  )
}

/** Reads the set-up, then shows the form that edits a part of it. */
export function WithSetup({ what, form: Form }: { what: string; form: ComponentType<{ setup: Setup }> }) {
  const setup = useSetup()
  if (isLost(setup)) return <ErrorNote error={setup.error} again={() => void setup.refetch()} />
  if (!setup.data) return <Loading what={what} />
  return <Form setup={setup.data} />
}

interface SaveProps {
  draft: Omit<Draft<unknown>, 'value' | 'change'>
  save: { mutate: () => void; isPending: boolean; isSuccess: boolean; error: unknown; reset: () => void }
  /** Leads save; others read. */
  may: boolean
}

function stateWords(half: boolean, dirty: boolean, saved: boolean): string {
  if (half) return 'A date is not one yet.'
  return dirty ? 'Not saved yet' : saved ? 'Saved' : ''
}

/** Below a form: what is not saved yet, and what happened. What was typed stays until it is saved or put back. */
export function SaveBar({ draft, save, may }: SaveProps) {
  const half = isHalfTyped(draft.kept)
  const stale = save.error instanceof Refused && save.error.problem.code === 'stale'
  if (!may)
    return <p className="border-t border-line px-5 py-2 text-second">Leads of the project change this.</p>
  return (
    <footer className="flex flex-col gap-2 border-t border-line bg-surface px-5 py-2">
      {draft.overtaken || stale ? (
        <div role="alert" className="flex items-center gap-3 bg-ochre-tint px-3 py-1.5 text-ochre">
          Somebody saved the set-up while you were editing. What you typed is still here.
          <Button
            small
            onClick={() => {
              draft.keepMine()
              save.reset()
            }}
          >
            Keep mine
          </Button>
          <Button
            small
            onClick={() => {
              draft.reset()
              save.reset()
            }}
          >
            Show theirs
          </Button>
        </div>
      ) : (
        <ErrorNote error={save.error} />
      )}
      <div className="flex items-center gap-3">
        <Button
          look="act"
          busy={save.isPending}
          why={
            draft.overtaken
              ? 'Somebody changed it meanwhile: look at theirs first.'
              : half
                ? 'Something is only half typed.'
                : !draft.dirty && 'Nothing is changed yet.'
          }
          onClick={() => save.mutate()}
        >
          {save.isPending ? 'Saving …' : 'Save'}
        </Button>
        <Button why={!draft.dirty && 'Nothing is changed yet.'} onClick={draft.reset}>
          Put back
        </Button>
        <span role="status" className="text-second">
          {stateWords(half, draft.dirty, save.isSuccess)}
        </span>
      </div>
    </footer>
  )
}
