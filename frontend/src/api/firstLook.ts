/**
 * The first look at a sheet: the picture that came with its page, seen before any script has run. How it comes is told
 * in `web/first_look.py`. The page's first script (`sheetStart.ts`) asks for what the view will ask for first, beside
 * all that makes the page work; the view lays the picture into itself and takes it away once its own tiles are as sharp.
 */

const look = () => document.getElementById('first-look')

/** The answer to what the page of a sheet asks for first; whoever takes it leaves none for the next. */
export const opening: { answer?: Promise<Response> } = {}

export function askOpening(revisionId: string) {
  opening.answer = fetch(`/api/sheets/${revisionId}/opening`)
}

/** Where the page has brought its picture, what comes after it is asked for at once. */
export function beginFirstLook(path: string) {
  const revisionId = /\/sheet\/([^/]+)/.exec(path)?.[1]
  if (revisionId && look()) askOpening(revisionId)
}

/** Lies in a view of the same place and size until that is as sharp itself. */
export function takeFirstLook(into: HTMLElement) {
  const found = look()
  if (found) into.append(found)
}

export function endFirstLook() {
  look()?.remove()
}
