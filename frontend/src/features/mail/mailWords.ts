import type { Schemas } from '../../api/client'

const WORDS: Record<string, string> = {
  new: 'being read …',
  answer: 'handed on',
  begun: 'a letter of its own',
  bounce: 'says that a mail came back',
  news: 'says what became of a mail',
  automatic: 'an automatic reply: answered by nothing',
  duplicate: 'the same mail came before',
  held: 'held',
  let_go: 'let go',
}

/** What became of a mail, in a few words. */
export function stateWords(line: Schemas['MailLine']): string {
  if (line.state === 'answer' && line.thing) return `handed on to ${line.thing.words}`
  if (line.state === 'begun' && line.thing) return `filed as ${line.thing.words}`
  return WORDS[line.state] ?? line.state
}
