/** A stretch of a text; what is folded is quoted from earlier mails, or a signature. */
export interface Stretch {
  words: string
  folded: boolean
}

/** `folds` are pairs of places in the text, counted in characters (not in UTF-16 units), apart and in order. */
export function stretchesOf(text: string, folds: readonly (readonly number[])[]): Stretch[] {
  const characters = Array.from(text)
  const found: Stretch[] = []
  const add = (from: number, to: number, folded: boolean) => {
    const words = characters
      .slice(from, to)
      .join('')
      .replace(/^\n+|\s+$/g, '')
    if (words) found.push({ words, folded })
  }
  let begin = 0
  for (const [from = 0, to = 0] of folds) {
    add(begin, from, false)
    add(from, to, true)
    begin = to
  }
  add(begin, characters.length, false)
  return found
}
