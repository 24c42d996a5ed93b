import { kindWords } from './KindIcon'
import type { Mark } from './useMarks'

/** Which marks are shown, in the list and on the sheet; an empty value leaves all. */
export interface MarkFilter {
  words: string
  author: string
  company: string
  state: string
  label: string
  discipline: string
  /** The person for whom a mark is meant. */
  meant: string
  /** The session in which it was made. */
  session: string
}

export const NO_FILTER: MarkFilter = {
  words: '',
  author: '',
  company: '',
  state: '',
  label: '',
  discipline: '',
  meant: '',
  session: '',
}

export const STATES = {
  open: 'Open',
  agreed: 'Agreed',
  declined: 'Declined',
  done: 'Done',
  dropped: 'Dropped',
} as const

export function fits(mark: Mark, filter: MarkFilter): boolean {
  return (
    (!filter.author || mark.author.id === filter.author) &&
    (!filter.company || mark.author.company === filter.company) &&
    (!filter.state || mark.state === filter.state) &&
    (!filter.label || mark.label === filter.label) &&
    (!filter.discipline || mark.discipline === filter.discipline) &&
    (!filter.session || mark.session_id === filter.session) &&
    (!filter.meant || mark.meant_for?.id === filter.meant) &&
    saysAll(mark, filter.words)
  )
}

function saysAll(mark: Mark, words: string): boolean {
  const said = [
    mark.text,
    mark.label,
    mark.author.name,
    kindWords(mark.kind, mark.look.symbol ?? ''),
    mark.pin_number ?? '',
    mark.meant_for?.name ?? '',
    ...mark.replies.map((reply) => reply.text),
  ]
    .join(' ')
    .toLowerCase()
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => said.includes(word))
}

export interface Choice {
  code: string
  words: string
}

/** What there is to choose from among some marks, each once, in order of its words. */
export function choicesOf(marks: readonly Mark[], of: (mark: Mark) => Choice): Choice[] {
  const found = new Map(marks.map(of).map((each) => [each.code, each]))
  return [...found.values()].filter((each) => each.code).sort((a, b) => a.words.localeCompare(b.words))
}
