import createClient from 'openapi-fetch'

import { Refused, type Problem } from './problems'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']

let csrfToken = ''

/** The token that goes with everything that changes something; known after `/api/me`. */
export function keepCsrfToken(token: string): void {
  csrfToken = token
}

export function readCsrfToken(): string {
  return csrfToken
}

export const api = createClient<paths>({ baseUrl: '' })

api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-Nod-Csrf', csrfToken)
    return request
  },
})

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer, or a `Refused` with the words for it. */
export async function unwrap<T>(answer: Promise<Answer<T>>): Promise<T> {
  let settled: Answer<T>
  try {
    settled = await answer
  } catch {
    throw new Refused({ code: 'offline', detail: '', status: 0, title: '', type: '', about: '' })
  }
  if (!settled.response.ok) throw new Refused(problemOf(settled.error, settled.response.status))
  return settled.data as T
}

function problemOf(error: unknown, status: number): Problem {
  if (typeof error === 'object' && error !== null && 'code' in error) return error as Problem
  return { code: 'fault', detail: '', status, title: '', type: '', about: '' }
}

/** `unwrap` for answers that hold tuples, which the client's types widen to arrays. */
export function unwrapAs<T>(answer: Promise<Answer<unknown>>): Promise<T> {
  return unwrap(answer) as Promise<T>
}
