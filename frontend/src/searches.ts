/** What addresses of single pages ask for. */
export interface MonthSearch {
  month?: string | undefined
  view?: string | undefined
  company?: string | undefined
}

export interface SpecificationSearch {
  spec?: string | undefined
  named?: string | undefined
}

/** Where on a sheet to look: a page from 0, a box of it in PDF points, a mark. */
export interface SheetSearch {
  page?: number | undefined
  at?: [number, number, number, number] | undefined
  mark?: string | undefined
  /** The session whose room one is in. */
  session?: string | undefined
}

export const boxOf = (value: unknown): [number, number, number, number] | undefined =>
  Array.isArray(value) && value.length === 4 && value.every((each) => typeof each === 'number')
    ? (value as [number, number, number, number])
    : undefined
