import { useMutationState } from '@tanstack/react-query'
import { Hourglass } from 'lucide-react'
import { useEffect } from 'react'

import { outbox, useLeftBehind, useSendingLeft, type Outgoing } from '../../api/outgoing'
import { HELD } from '../../api/waiting'
import { sentLater } from '../../ui/useKept'

/** What was typed has been said now: its form does not hold it any more. */
function settle({ draft, key, body }: Outgoing) {
  if (draft) sentLater(draft, key, body['text'])
}

/** What was done while the line is down, and goes when it is back; the page is not left with it unasked. */
export function Waits() {
  useSendingLeft(outbox, settle)
  const left = useLeftBehind(outbox).length
  const inHand = useMutationState({ filters: HELD, select: () => true }).length
  const waiting = inHand + left
  useEffect(() => {
    if (!inHand) return
    const ask = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', ask)
    return () => window.removeEventListener('beforeunload', ask)
  }, [inHand])
  if (!waiting) return null
  return (
    <span
      role="status"
      title="The line is broken. What you did waits, and goes when it is back: leave this page open."
      className="flex items-center gap-1 text-note whitespace-nowrap text-ochre"
    >
      <Hourglass size={14} aria-hidden /> {waiting} {waiting === 1 ? 'waits' : 'wait'}
      <span className="max-xl:sr-only"> for the line</span>
    </span>
  )
}
