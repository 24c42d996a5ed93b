/** The list that a sheet was opened from: its lines in their order, as far as they have been fetched. */
export interface ListedSheet {
  documentId: string
  revisionId: string
  number: string
}

let listed: readonly ListedSheet[] = []

export function rememberSheets(sheets: readonly ListedSheet[]): void {
  listed = sheets
}

/** What comes `step` lines after a document in that list, if anything does. */
export function sheetAfter(documentId: string, step: number): ListedSheet | null {
  const place = listed.findIndex((each) => each.documentId === documentId)
  return place < 0 ? null : (listed[place + step] ?? null)
}
