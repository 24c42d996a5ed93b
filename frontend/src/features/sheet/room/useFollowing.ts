import { useNavigate } from '@tanstack/react-router'
import { useEffect, useRef, type RefObject } from 'react'

import type { Place } from '../../../api/presence'
import type { Affine } from '../../../domain/affine'
import { boxOnPage } from '../../../domain/pageBox'
import type { View } from '../../../ui/TileView'
import { setRoom } from './roomState'
import type { Room } from './useRoom'

interface Where {
  revisionId: string
  page: number
  setPage: (page: number) => void
  toView: Affine
  view: RefObject<View | null>
}

/** Goes to where somebody looks: to their sheet, their page, what of it they see. */
export function useGoTo(room: Room | null, { revisionId, page, setPage, toView, view }: Where) {
  const navigate = useNavigate()
  return (place: Place) => {
    if (!room) return
    if (place.revision !== revisionId) {
      void navigate({
        to: '/sheet/$revisionId',
        params: { revisionId: place.revision },
        search: { session: room.session.line.id, page: place.page },
      })
      return
    }
    if (place.page !== page) setPage(place.page)
    if (place.box) view.current?.show(boxOnPage(place.box, toView))
  }
}

/** Follows somebody's view until one moves oneself, presses Esc, or they leave. */
export function useFollowing(room: Room | null, where: Where) {
  const goTo = useGoTo(room, where)
  const followed = room?.people.find((each) => each.who === room.following)
  const newest = useRef(goTo)
  useEffect(() => {
    newest.current = goTo
  })
  const place = followed && JSON.stringify([followed.revision, followed.page, followed.box])
  useEffect(() => {
    if (!place) return
    const [revision, page, box] = JSON.parse(place) as [string, number, Place['box']]
    newest.current({ revision, page, box })
  }, [place, where.revisionId])
  return { followed, goTo, stop: () => setRoom({ following: '' }) }
}
