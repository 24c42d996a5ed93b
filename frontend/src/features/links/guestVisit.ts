import { api, unwrap, type Schemas } from '../../api/client'

export type Entered = Schemas['Entered']
/** What is asked of whoever came by a link to a review. */
export type Part = Schemas['GuestPart']
/** A transmittal as its recipient sees it. */
export type GuestSent = Schemas['GuestView']

/** A guest sits in no project: times are the reader's own. */
export const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

const keyOf = (token: string) => `nod-guest ${token}`

/** The visit of this window by a link; gone with the window. */
export function visitBy(token: string): Entered | null {
  const kept = sessionStorage.getItem(keyOf(token))
  return kept ? (JSON.parse(kept) as Entered) : null
}

export function keepVisit(token: string, visit: Entered): void {
  sessionStorage.setItem(keyOf(token), JSON.stringify(visit))
}

export function forgetVisit(token: string): void {
  sessionStorage.removeItem(keyOf(token))
}

/** The secret goes along in a header: it stands in no address, and so in no log. */
export const asGuest = (visit: Entered) => ({ headers: { 'X-Nod-Guest': visit.guest } })

/** An address of this page for a picture that only the visit may see. */
export async function pictureOf(visit: Entered, page: number): Promise<string> {
  const answer = await unwrap(
    api.GET('/api/guest/document/pages/{page}', {
      params: { path: { page } },
      ...asGuest(visit),
      parseAs: 'blob',
    }),
  )
  return URL.createObjectURL(answer)
}
