import { useNavigate } from '@tanstack/react-router'

import { sheetAfter } from '../../ui/sheetList'
import type { OpenSheet } from './useOpenSheet'

/** The ways from a sheet to another: along the list it was opened from, to its revisions, to be compared. */
export function useSheetTravel({ sheet, room }: Pick<OpenSheet, 'sheet' | 'room'>) {
  const navigate = useNavigate()
  const session = room?.session.line.id
  const place = sheet.revisions.findIndex((each) => each.id === sheet.revision_id)
  const notReleased = sheet.standing.kind === 'not_released'
  // Along the sheets of a session one stays in its room; to another revision one leaves it.
  const open = (revisionId: string) =>
    void navigate({
      to: '/sheet/$revisionId',
      params: { revisionId },
      search: session && room.has(revisionId) ? { session } : {},
    })
  return {
    open,
    along: (step: number) => {
      const next = sheetAfter(sheet.document_id, step)
      if (next) open(next.revisionId)
    },
    revision: (step: number) => {
      const next = sheet.revisions[place + step]
      if (next) open(next.id)
    },
    /** What one that is not released is compared with first: the one that people work from; otherwise the one before. */
    against: notReleased ? sheet.in_force : (sheet.revisions[place - 1] ?? sheet.revisions[place + 1])?.code,
    /** Of the only one, with itself, until another sheet is chosen there. */
    compare: () => {
      const beside = (sheet.revisions[place - 1] ?? sheet.revisions[place + 1])?.id ?? sheet.revision_id
      const other = notReleased ? sheet.in_force_id : beside
      const [before, after] = place > 0 ? [other, sheet.revision_id] : [sheet.revision_id, other]
      void navigate({ to: '/compare/$before/$after', params: { before, after } })
    },
  }
}
