import type { Schemas } from '../../../api/client'

/** A step that asks me about the revision on the sheet. */
export type SheetPart = Schemas['SheetPart']
