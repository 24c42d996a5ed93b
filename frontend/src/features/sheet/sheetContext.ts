import { createContext, use } from 'react'

import type { OpenSheet } from './useOpenSheet'

/** The sheet that is open: what stands around it takes what it needs from here. */
export const SheetContext = createContext<OpenSheet | null>(null)

export function useSheet(): OpenSheet {
  const open = use(SheetContext)
  if (!open) throw new Error('Only to be used around an open sheet.')
  return open
}
