import { useQuery } from '@tanstack/react-query'
import { useSearch } from '@tanstack/react-router'

import { api, unwrap } from '../../api/client'
import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { useSession, type Session } from '../../api/session'
import { askChosen, idsOfAddress } from '../../ui/chosen'
import { ErrorNote, Loading } from '../../ui/Notes'
import { SendForm, type Beginning } from './SendForm'
import type { SendLine } from './SendLines'
import { useDraft, type DraftContent } from './useTransmittals'

const NOTHING: DraftContent = {
  revisions: [],
  people: [],
  copied: [],
  purpose: 'information',
  note: '',
  answer_wanted_on: null,
  review_id: null,
  replaces: '',
  natives: false,
  stamped: false,
  marks: '',
  record: null,
  view_only: false,
}

interface Asked {
  review?: string | undefined
  revisions?: string | undefined
  set?: string | undefined
  draft?: string | undefined
  /** The record of a session: its id and the part. */
  record?: string | undefined
}

/** A transmittal as it is prepared: from a closed review or session, a drawing set, marked documents, a draft, or nothing yet. */
export function SendPage() {
  const asked = useSearch({ from: '/frame/transmittals/new' })
  const begun = useBeginning(asked)
  if (begun.lost) return <ErrorNote error={begun.lost} again={begun.again} />
  if (!begun.data) return <Loading what="what is sent" />
  return <SendForm key={begun.data.key} begun={begun.data} />
}

function useBeginning({ review, revisions, set, draft, record }: Asked): {
  data: Beginning | undefined
  lost: unknown
  again: () => void
} {
  const { me } = useSeat()
  const kept = useDraft(draft)
  const [sessionId, part] = (record ?? '').split('.')
  const session = useSession(sessionId || undefined)
  const lines = useLines(
    draft
      ? { revisions: kept.data?.content.revisions ?? [] }
      : { review, set, revisions: session.data ? sheetsOf(session.data) : revisions },
    (!draft || kept.data !== undefined) && (!sessionId || session.data !== undefined),
  )
  // A draft that is gone once it was sent, or that a colleague has sent, leaves what is on the form where it is.
  const gone = draft && !kept.data && isLost(kept) ? kept.error : null
  const lost = gone ?? (isLost(session) ? session.error : isLost(lines) ? lines.error : null)
  const again = () => {
    void kept.refetch()
    void lines.refetch()
  }
  if (!lines.data) return { data: undefined, lost, again }
  const met = session.data ? ofSession(session.data, Number(part), me.person.id) : {}
  const content = kept.data?.content ?? { ...NOTHING, review_id: review ?? null, ...met }
  return {
    data: {
      key: kept.data
        ? `draft ${kept.data.line.id} ${kept.data.line.version}`
        : (review ?? set ?? record ?? revisions ?? 'new'),
      content,
      lines: lines.data.lines,
      missing: lines.data.missing,
      of: lines.data.name,
      draft: kept.data?.line,
    },
    lost,
    again,
  }
}

const sheetsOf = (session: Session) =>
  session.sheets.filter((each) => !each.out_why).map((each) => each.revision_id)

/** Its record goes to those who took part. */
const ofSession = (session: Session, part: number, me: string): Partial<DraftContent> => ({
  people: session.visits.map((each) => each.person_id).filter((id) => id && id !== me),
  note: `The record of ${session.line.number}, ${session.line.name}.`,
  record: { session_id: session.line.id, part },
})

interface Source {
  review?: string | undefined
  revisions?: string | readonly string[] | undefined
  set?: string | undefined
}

function useLines({ review, revisions, set }: Source, enabled: boolean) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['to-send', review, revisions, set],
    enabled,
    queryFn: async (): Promise<{ lines: SendLine[]; name: string; missing: number }> => {
      if (review) {
        const found = await unwrap(
          api.GET('/api/reviews/{review_id}', { params: { path: { review_id: review } } }),
        )
        const lines = found.documents.map((each) => ({ ...each, revisionId: each.revision_id }))
        return { lines, name: '', missing: 0 }
      }
      const ids = typeof revisions === 'string' ? idsOfAddress(revisions) : (revisions ?? [])
      if (!set && !ids.length) return { lines: [], name: '', missing: 0 }
      const chosen = await askChosen(project.id, set ? { set_id: set } : { revisions: [...ids] })
      return {
        lines: chosen.lines.map((each) => ({ ...each, revisionId: each.revision_id })),
        name: chosen.name,
        missing: chosen.missing,
      }
    },
  })
}
