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
  csrf: 'This page is out of date. Load it again; what you typed is kept.',
  key_malformed: '',
  done_already: 'This has been done already. Load the page again to see what came of it.',
  done_otherwise: '',
  too_many: '',
  too_many_windows: '',
  pack_outdated: '',
  wrong_password: '',
  level_too_low: '',
  may_not_release: '',
  status_same: '',
  use_unknown: '',
  end_unfit: '',
  term_unfit: '',
  term_twice: '',
  not_your_step: '',
  not_your_mark: '',
  not_your_link: '',
  not_your_review: '',
  not_a_recipient: '',
  own_document: '',
  step_taken: 'Somebody picked this step up a moment ago. The slip now shows who has it.',
  step_not_yours: '',
  absence_over: '',
  absence_twice: '',
  not_yours: '',
  nothing_to_remind: '',
  stands_in_for_self: '',
  decided_already: '',
  document_left: '',
  handed_in_already: '',
  in_step_already: '',
  not_your_route: '',
  nothing_newer: '',
  nothing_to_pick_up: '',
  place_not_open: '',
  revision_swapped: '',
  step_not_running: '',
  step_over: '',
  starter_unknown: '',
  verdict_unknown: '',
  pick_up_first: '',
  allows_unknown: '',
  link_over: '',
  link_closed: '',
  link_not_for_that: '',
  wrong_link_password: '',
  email_taken: '',
  has_account: '',
  not_packed: '',
  not_held: '',
  not_let_go: '',
  no_sender: '',
  mail_not_taken: '',
  mail_server_silent: '',
  file_broken: '',
  only_candidate: '',
  review_over: '',
  reason_missing: '',
  answers_incomplete: '',
  verdict_missing: '',
  verdict_unasked: '',
  no_documents: '',
  no_recipients: '',
  purpose_unknown: '',
  came_by_unknown: '',
  came_from_missing: '',
  came_on_future: '',
  list_empty: '',
  list_long: '',
  name_missing: '',
  nobody_decides: '',
  route_exists: '',
  step_count: '',
  step_without_people: '',
  separation_of_duties: '',
  revision_moved_on: '',
  in_review_already: '',
  arrival_gone: '',
  no_room: '',
  upload_too_long: '',
  tus_version: 'The browser sends in a way that Nod does not know. Load the page again.',
  field_unknown: '',
  no_files: '',
  not_a_set: '',
  set_in_use: '',
  zones_missing: '',
  zone_field: '',
  zone_size: '',
  pattern_unknown: '',
  too_many_changes: '',
  still_looking: '',
  file_too_large: '',
  length_missing: 'The browser did not say how large the file is. Try again.',
  upload_broken_off: '',
  too_large: 'This is more than Nod takes in one go.',
  shape_unfit: '',
  discipline_unknown: '',
  ink_unknown: '',
  code_unknown: '',
  outline_crosses: '',
  paper_unknown: '',
  marks_unreadable: '',
  nothing_chosen: '',
  places_unfit: '',
  hole_outside: '',
  across_scales: '',
  scale_unfit: '',
  length_unreadable: '',
  text_missing: '',
  text_too_long: '',
  mark_answered: '',
  address_unfit: '',
  too_many_links: '',
  too_many_files: '',
  folder_unknown: '',
  form_unknown: '',
  route_in_use: '',
  route_retired: '',
  step_unfit: '',
  not_ones_own: '',
  links_to_itself: '',
  mark_locked: '',
  file_locked: '',
  file_slow: '',
  person_sees_not: '',
  too_many_pens: '',
  inked_already: '',
  mark_still_there: '',
  still_pencil: '',
  page_missing: '',
  page_too_slow: '',
  view_unknown: '',
  filter_unknown: '',
  value_unfit: '',
  column_fixed: '',
  title_wanted: '',
  status_wanted: '',
  status_needs_review: '',
  field_elsewhere: '',
  field_in_use: '',
  checked_out: '',
  not_checked_out: '',
  withdrawn: '',
  not_withdrawn: '',
  in_review: '',
  number_breaks_convention: '',
  number_in_use: '',
  number_same: '',
  revision_current: '',
  revision_order: '',
  status_unknown: '',
  view_large: '',
  view_exists: '',
  too_many_views: '',
  not_your_view: '',
  set_exists: '',
  set_there: '',
  set_large: '',
  list_large: '',
  folder_empty: '',
  pack_large: '',
  pack_over: '',
  pack_not_ready: '',
  table_broken: '',
  columns_wanted: '',
  calendar_unknown: '',
  code_in_use: '',
  code_invalid: '',
  code_taken: '',
  code_twice: '',
  code_wanted: '',
  company_code: '',
  company_missing: '',
  contact_has_no_role: '',
  email_invalid: '',
  email_twice: '',
  ends_before: '',
  field_choices: '',
  field_count: '',
  field_empty: '',
  field_kind: '',
  field_length: '',
  field_name: '',
  field_twice: '',
  folder_exists: '',
  folder_name: '',
  folder_not_empty: '',
  folder_under_itself: '',
  heir_cannot_mark: '',
  heir_is_author: '',
  holiday_twice: '',
  hour_invalid: '',
  in_project_already: '',
  keeps_everything: '',
  last_lead: '',
  last_steward: '',
  last_tool: '',
  link_outworn: '',
  link_used: '',
  meaning_unknown: '',
  no_good_verdict: '',
  no_working_day: '',
  nobody_named: '',
  not_invited: '',
  not_leading: '',
  not_running: '',
  not_steward: '',
  notice_unknown: '',
  notice_wants_act: '',
  number_taken: '',
  open_work: '',
  part_unknown: '',
  password_long: '',
  password_short: '',
  password_weak: '',
  project_number: '',
  reviewer_cannot_mark: '',
  role_in_use: '',
  role_missing: '',
  role_name: '',
  role_twice: '',
  role_unknown: '',
  root_folder: '',
  same_company: '',
  scheme_in_use: '',
  second_factor_on: '',
  second_factor_state: '',
  seeing_as: '',
  separator: '',
  starter_exists: '',
  state_unknown: '',
  still_in_projects: '',
  too_many_codes: '',
  too_many_people: '',
  tool_off: '',
  tool_unknown: '',
  words_missing: '',
  wrong_code: '',
  wrong_present_password: '',
  years_invalid: '',
  zone_unknown: '',
  malformed: '',
  method_not_allowed: 'Nod does not know this act.',
  fault: 'Something went wrong in Nod. Nothing was changed. Try again; if it stays, tell the steward.',
  offline: 'No connection to Nod. What you typed is still here; try again when the line is back.',
}

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
