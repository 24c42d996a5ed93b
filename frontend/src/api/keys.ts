import type { QueryClient } from '@tanstack/react-query'

import { markStale } from './markStale'

/** Everything that is fetched, by the first part of its query key. Hooks, acts and the live channel know no others. */
export type Key =
  | 'access'
  | 'account'
  | 'addressees'
  | 'attached'
  | 'attached-preview'
  | 'batch'
  | 'batches'
  | 'calendar-feed'
  | 'calendars'
  | 'carry'
  | 'check-outs'
  | 'check-sending'
  | 'chosen'
  | 'code'
  | 'company-code'
  | 'corners'
  | 'days'
  | 'demo-people'
  | 'desk'
  | 'document'
  | 'distribution'
  | 'distribution-tried'
  | 'draft'
  | 'drafts'
  | 'due'
  | 'find'
  | 'folders'
  | 'follow'
  | 'follows'
  | 'given-links'
  | 'given-up'
  | 'guest'
  | 'holders'
  | 'ink-readers'
  | 'key-link'
  | 'laid-over'
  | 'layers'
  | 'link'
  | 'link-offer'
  | 'link-targets'
  | 'linked'
  | 'links'
  | 'mail'
  | 'mailbox'
  | 'mark-files'
  | 'mark-place'
  | 'marks'
  | 'me'
  | 'measures'
  | 'notices'
  | 'open-work'
  | 'pack-size'
  | 'uses-tried'
  | 'start-check'
  | 'answer-times'
  | 'packs'
  | 'pens'
  | 'people'
  | 'planned'
  | 'post-room'
  | 'preview'
  | 'readers'
  | 'received'
  | 'references'
  | 'register'
  | 'register-columns'
  | 'register-values'
  | 'review'
  | 'reviews'
  | 'revision-changes'
  | 'routes'
  | 'scales'
  | 'senders'
  | 'set'
  | 'sets'
  | 'session'
  | 'session-check'
  | 'session-happened'
  | 'sessions'
  | 'setup'
  | 'sheet'
  | 'sheet-people'
  | 'sheet-words'
  | 'starters'
  | 'submittal'
  | 'submittal-choices'
  | 'submittal-spec'
  | 'submittals'
  | 'suggestions'
  | 'talk'
  | 'to-send'
  | 'trail'
  | 'letter'
  | 'letter-choices'
  | 'letter-draft'
  | 'letters'
  | 'letters-about'
  | 'transmittal'
  | 'transmittals'
  | 'tried'
  | 'try-route'
  | 'try-number'
  | 'views'
  | 'whereabouts'
  | 'workspace'

declare module '@tanstack/react-query' {
  interface Register {
    queryKey: readonly [Key, ...unknown[]]
  }
}

/** What has to be fetched again when something of a topic changed. */
const TOPICS: Record<string, readonly Key[]> = {
  intake: ['batches', 'batch', 'received', 'desk', 'trail'],
  register: ['document', 'desk', 'sheet', 'trail', 'check-outs', 'register-values', 'planned', 'set'],
  mail: ['mailbox', 'mail', 'desk', 'trail'],
  links: ['given-links'],
  talk: ['talk', 'trail', 'attached'],
  sets: ['sets', 'set', 'register-columns', 'register-values'],
  views: ['views'],
  notices: ['notices'],
  planned: ['planned'],
  packs: ['packs'],
  reviews: ['reviews', 'review', 'desk', 'document', 'trail', 'ink-readers', 'marks'],
  transmittals: [
    'transmittals',
    'transmittal',
    'desk',
    'trail',
    'review',
    'document',
    'drafts',
    'due',
    'holders',
  ],
  // What a session's sheets have open is asked for now and then: marks come many a second.
  sessions: ['sessions', 'session', 'session-happened', 'trail', 'ink-readers', 'document', 'sheet', 'me'],
  submittals: ['submittals', 'submittal', 'submittal-spec', 'desk', 'trail'],
  letters: ['letters', 'letter', 'letters-about', 'desk', 'trail'],
  marks: ['marks', 'linked', 'carry', 'scales', 'measures', 'trail'],
  people: ['people', 'me', 'access', 'open-work'],
  // One's own place in a project: given, or taken away.
  place: ['me'],
  routes: ['routes'],
  folders: ['folders', 'access', 'document', 'register'],
  access: [
    'me',
    'access',
    'folders',
    'register',
    'desk',
    'reviews',
    'submittals',
    'letters',
    'letter',
    'transmittals',
    'document',
    'batches',
    'received',
    'trail',
    'notices',
    'follow',
    'follows',
    'talk',
  ],
  setup: [
    'setup',
    'submittals',
    'submittal',
    'submittal-choices',
    'submittal-spec',
    'letter-choices',
    'letters',
    'me',
    'people',
    'register-columns',
    'answer-times',
    'distribution',
    'due',
  ],
}

/** Of these an event names the one that it is about: what is known of others stays. */
const BY_SUBJECT: Record<string, readonly Key[]> = { marks: ['marks', 'scales', 'measures'] }

/** Nothing for a topic that this page does not know: a newer server may tell of it. */
export function keysOf(topic: string, subject: string): readonly (readonly [Key] | readonly [Key, string])[] {
  const own = BY_SUBJECT[topic] ?? []
  return (TOPICS[topic] ?? []).map((key) => (own.includes(key) ? [key, subject] : [key]))
}

/** After an act: what it may have changed is fetched again. */
export async function fetchAnew(client: QueryClient, keys: readonly Key[]): Promise<void> {
  await Promise.all(keys.map((key) => markStale(client, [key])))
}
