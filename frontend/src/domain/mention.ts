/** A name that is being typed after an @, up to the caret: where the @ is, and the letters after it. */
export interface Typing {
  at: number
  letters: string
}

const LONGEST_NAME = 40

/** Null where the caret stands in no name. A name may have blanks in it, as long as somebody is called so. */
export function typingName(text: string, caret: number): Typing | null {
  const before = text.slice(0, caret)
  const at = before.lastIndexOf('@')
  if (at < 0 || caret - at - 1 > LONGEST_NAME) return null
  const letters = before.slice(at + 1)
  return letters.includes('\n') ? null : { at, letters }
}

/** Those whose name, or a part of it, begins with the letters. */
export function namesLike<Person extends { name: string }>(
  people: readonly Person[],
  letters: string,
): Person[] {
  const wanted = letters.toLowerCase()
  const begins = (name: string) =>
    name.startsWith(wanted) || name.split(/\s+/).some((part) => part.startsWith(wanted))
  return people.filter((each) => each.name.toLowerCase() !== wanted && begins(each.name.toLowerCase()))
}

/** The text with the whole name in place of what was typed of it, and where the caret stands then. */
export function withName(text: string, typing: Typing, name: string): { text: string; caret: number } {
  const end = typing.at + 1 + typing.letters.length
  const after = text.slice(end)
  const put = `@${name}${after.startsWith(' ') ? '' : ' '}`
  return { text: text.slice(0, typing.at) + put + after, caret: typing.at + put.length }
}
