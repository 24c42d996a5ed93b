import type { QueryClient } from '@tanstack/react-query'

import { keepCsrfToken, type Schemas } from './client'
import { opening } from './firstLook'

/** What has been asked for ahead need not be asked for again: who looks, and the sheet. */
export async function takeOpening(client: QueryClient) {
  const answer = await opening.answer?.catch(() => undefined)
  delete opening.answer
  // What was refused is asked for again, and told, by the page itself.
  if (!answer?.ok) return
  const { me, sheet } = (await answer.json()) as Schemas['SheetOpening']
  keepCsrfToken(me.csrf_token, me.person.id)
  client.setQueryData(['me'], me)
  client.setQueryData(['sheet', sheet.revision_id], sheet)
}
