import createClient from 'openapi-fetch'

import { brokenLine, refusedBy, type Problem } from './problems'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']

let csrfToken = ''
let personId = ''

/** The token that goes with everything that changes something; known after `/api/me`, with whom it belongs to. */
export function keepCsrfToken(token: string, person: string): void {
  csrfToken = token
  personId = person
}

/** Whose page this is, by id; empty until it is known. */
export const whose = (): string => personId

interface Who {
  csrf_token: string
  person: { id: string }
}

/** After another sign-in of the same person in this browser: its token. False if it is somebody else's, or nobody's. */
export async function renewCsrfToken(): Promise<boolean> {
  const answer = await fetch('/api/me').catch(() => null)
  const me = answer?.ok ? ((await answer.json()) as Who) : null
  if (!me || me.person.id !== personId) return false
  keepCsrfToken(me.csrf_token, personId)
  return true
}

export function readCsrfToken(): string {
  return csrfToken
}

/** Acts on their way, by what they ask for. */
const going = new Map<string, Promise<Response>>()

/** A second press while the first is on its way asks for nothing more, and gets its answer. */
async function fetchOnce(request: Request): Promise<Response> {
  if (request.method === 'GET') return fetch(request)
  const asked = `${request.method} ${request.url}\n${await request.clone().text()}`
  const there = going.get(asked)
  if (there) return (await there).clone()
  const sent = fetch(request)
  going.set(asked, sent)
  try {
    return (await sent).clone()
  } finally {
    going.delete(asked)
  }
}

export const api = createClient<paths>({ baseUrl: '', fetch: fetchOnce })

/** Requests on their way, as a body can be sent only once. */
const copies = new Map<string, Request>()

api.use({
  onRequest({ request, id }) {
    if (request.method === 'GET') return request
    request.headers.set('X-Nod-Csrf', csrfToken)
    copies.set(id, request.clone())
    return request
  },
  async onResponse({ response, id }) {
    const copy = copies.get(id)
    copies.delete(id)
    if (!copy || response.status !== 403) return response
    const problem = (await response
      .clone()
      .json()
      .catch(() => null)) as Problem | null
    if (problem?.code !== 'csrf' || !(await renewCsrfToken())) return response
    copy.headers.set('X-Nod-Csrf', csrfToken)
    return fetch(copy)
  },
  onError({ id }) {
    copies.delete(id)
  },
})

/** What makes a request one that is done once, however often it is sent: the key of its form. */
export const once = (key: string) => ({ headers: { 'Idempotency-Key': key } })

/** A new such key. */
export function newKey(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))]
    .map((each) => each.toString(16).padStart(2, '0'))
    .join('')
}

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer, or a `Refused` with the words for it. */
export async function unwrap<T>(answer: Promise<Answer<T>>): Promise<T> {
  let settled: Answer<T>
  try {
    settled = await answer
  } catch {
    throw refusedBy(brokenLine())
  }
  if (!settled.response.ok) throw refusedBy(problemOf(settled.error, settled.response.status))
  return settled.data as T
}

function problemOf(error: unknown, status: number): Problem {
  if (typeof error === 'object' && error !== null && 'code' in error) return error as Problem
  return { ...brokenLine('fault'), status }
}

/** `unwrap` for answers that hold tuples, which the client's types widen to arrays. */
export function unwrapAs<T>(answer: Promise<Answer<unknown>>): Promise<T> {
  return unwrap(answer) as Promise<T>
}
