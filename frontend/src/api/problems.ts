import type { components } from './schema.gen'

export type Problem = components['schemas']['Problem']

/**
 * What each refusal means for the person reading it. An empty text means that the server's own words,
 * which name the thing, are the best there are.
 */
const WORDS: Record<string, string> = {
  not_found:
    'There is nothing here under this address. It may have been moved, or you may not have access to it.',
  not_signed_in: 'Your session is over. Sign in again; what you typed is still here.',
  stale:
    'Somebody changed this while you were looking at it. The newest state is shown now; do it again if it still holds.',
  csrf: 'This page is out of date. Load it again.',
  too_many: '',
  wrong_password: '',
  level_too_low: '',
  not_your_step: '',
  not_your_mark: '',
  not_your_review: '',
  not_a_recipient: '',
  own_document: '',
  step_taken: 'Somebody picked this step up a moment ago. The slip now shows who has it.',
  step_not_yours: '',
  pick_up_first: '',
  only_candidate: '',
  review_over: '',
  reason_missing: '',
  answers_incomplete: '',
  verdict_missing: '',
  verdict_unasked: '',
  no_documents: '',
  no_recipients: '',
  purpose_unknown: '',
  name_missing: '',
  step_count: '',
  step_without_people: '',
  separation_of_duties: '',
  revision_moved_on: '',
  in_review_already: '',
  arrival_gone: '',
  still_looking: '',
  file_too_large: '',
  length_missing: 'The browser did not say how large the file is. Try again.',
  upload_broken_off: '',
  too_large: 'This is more than Nod takes in one go.',
  shape_unfit: '',
  text_missing: '',
  text_too_long: '',
  mark_answered: '',
  inked_already: '',
  mark_still_there: '',
  still_pencil: '',
  page_missing: '',
  page_too_slow: '',
  view_unknown: 'This list cannot be shown in that order. The usual order is shown.',
  malformed: '',
  method_not_allowed: 'Nod does not know this act.',
  fault: 'Something went wrong in Nod. Nothing was changed. Try again; if it stays, tell the steward.',
  offline: 'No connection to Nod. What you typed is still here; try again when the line is back.',
}

/** An act that did not happen, with words for the person who wanted it. */
export class Refused extends Error {
  readonly problem: Problem

  constructor(problem: Problem) {
    super(WORDS[problem.code] || problem.detail || WORDS['fault'])
    this.problem = problem
  }
}

export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

export const KNOWN_CODES = Object.keys(WORDS)
