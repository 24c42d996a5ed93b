import type { QueryClient } from '@tanstack/react-query'

import { keepCsrfToken, type Schemas } from './client'

/** What a page says of itself, so that it need not be asked for: who looks at it, and its sheet. */
interface Told {
  me: Schemas['Me']
  sheet: Schemas['Sheet']
}

export function takeTold(client: QueryClient) {
  const node = document.getElementById('told')
  if (!node) return
  const { me, sheet } = JSON.parse(node.textContent) as Told
  node.remove()
  keepCsrfToken(me.csrf_token)
  client.setQueryData(['me'], me)
  client.setQueryData(['sheet', sheet.revision_id], sheet)
}
