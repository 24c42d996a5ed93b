import { useSearch } from '@tanstack/react-router'
import { useEffect } from 'react'

import type { Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { usePresence, type Present } from '../../../api/presence'
import { useSession, type Session } from '../../../api/session'
import { rememberSheets } from '../../../ui/sheetList'
import { enterRoom, useRoomState, type RoomState } from './roomState'

/** The session whose room one is in on this sheet. */
export interface Room extends RoomState {
  session: Session
  /** In it now; otherwise it is only looked back on. */
  open: boolean
  mayMark: boolean
  /** Answering, and setting states. */
  maySay: boolean
  people: readonly Present[]
  has: (revisionId: string) => boolean
}

/** Null where the sheet is open by itself, or as long as the session is not known. */
export function useRoom(sheet: Schemas['Sheet']): Room | null {
  const { session: id } = useSearch({ from: '/frame/sheet/$revisionId' })
  const { me } = useSeat()
  const session = useSession(id).data
  const state = useRoomState()
  const people = usePresence(id ?? '')
  useEffect(() => {
    if (!session) return
    enterRoom(session.line.id, me.now)
    rememberSheets(
      session.sheets
        .filter((each) => !each.out_why)
        .map((each) => ({
          documentId: each.document_id,
          revisionId: each.revision_id,
          number: each.number,
        })),
    )
  }, [session, me.now])
  if (!session) return null
  const has = (revisionId: string) =>
    session.sheets.some((each) => each.revision_id === revisionId && !each.out_why)
  const here = has(sheet.revision_id)
  return {
    ...state,
    session,
    open: here && session.may.includes('look'),
    mayMark: here && session.may.includes('mark'),
    maySay: here && session.may.includes('comment'),
    people,
    has,
  }
}
