/** The answer to what the page of a sheet asks for first, asked before the rest of the front end is there. */
export const opening: { answer?: Promise<Response> } = {}

export function askOpening(revisionId: string) {
  opening.answer = fetch(`/api/sheets/${revisionId}/opening`)
}
