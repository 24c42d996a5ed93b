import type { Kept } from './useKept'

const TAIL = ', as typed'

/** A date as it is being typed, and whether it is one yet. */
export interface TypedDate {
  text: string
  wrong: boolean
}

/** The field of a form that has it, beside the day that is meant. */
export const asTyped = (label: string) => label + TAIL

/** Whether a date in the form is no day yet: the form still has the one before. */
export const isHalfTyped = (kept: Kept) =>
  Object.entries(kept.draft?.fields ?? {}).some(
    ([field, value]) => field.endsWith(TAIL) && (value as TypedDate).wrong,
  )
