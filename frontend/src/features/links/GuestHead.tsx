import type { ReactNode } from 'react'

import { counted } from '../../domain/counted'
import { dayText } from '../../domain/dates'
import { Logo } from '../../ui/Logo'
import type { Part } from './guestVisit'

/** Whose review it is, what is asked, and until when. */
export function GuestHead({ part, children }: { part: Part; children?: ReactNode }) {
  return (
    <header className="flex shrink-0 items-center gap-3 border-b border-line px-3 py-1.5">
      <Logo className="size-7 shrink-0" />
      <div className="min-w-0 flex-1">
        <h1 className="truncate text-read font-semibold">
          <span className="code">{part.number}</span> {part.name}
        </h1>
        <p className="truncate text-list text-second" title={part.message}>
          {part.project}. From {part.given_by.name} <span className="code">{part.given_by.company}</span>.
          {part.message && ` “${part.message}”`}
        </p>
      </div>
      {children}
      <p className="shrink-0 text-right text-list">
        <span className="font-semibold text-plum">
          {part.documents.some((each) => each.asked) && part.step}
        </span>
        {part.due_on && part.documents.some((each) => each.asked) && (
          <span className="block">by {dayText(part.due_on, '')}</span>
        )}
        <span className="block text-second max-md:hidden">
          {counted(part.documents.length, 'document')}; you are {part.guest}
        </span>
      </p>
    </header>
  )
}
