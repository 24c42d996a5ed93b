import { WORDS } from './problemWords'
import type { components } from './schema.gen'

export type Problem = components['schemas']['Problem']

/** An act that did not happen, with words for the person who wanted it. */
export class Refused extends Error {
  readonly problem: Problem
  private readonly at = performance.now()

  constructor(problem: Problem) {
    super(WORDS[problem.code] || problem.detail || WORDS['fault'])
    this.problem = problem
  }

  /** Of a session that has been taken up again since. */
  get isPast(): boolean {
    return this.problem.code === 'not_signed_in' && this.at < signedInAt
  }
}

let signedInAt = 0

/** Somebody has signed in again: what was refused for want of that need not be told any more. */
export function noteSignedIn(): void {
  signedInAt = performance.now()
}

type Listener = (refused: Refused) => void
const listeners = new Set<Listener>()

/** Be told of every refusal, whoever asked. */
export function onRefused(listener: Listener): () => void {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

/** A refusal by the server, told to whoever has to know of all. */
export function refusedBy(problem: Problem): Refused {
  const refused = new Refused(problem)
  for (const listener of listeners) listener(refused)
  return refused
}

/** What is said where no answer came, or none of Nod's. */
export function brokenLine(code: 'offline' | 'fault' = 'offline'): Problem {
  return { code, detail: '', status: 0, title: '', type: '', about: '' }
}

export const isOffline = (error: unknown) => error instanceof Refused && error.problem.code === 'offline'

export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

export const KNOWN_CODES = Object.keys(WORDS)
