import { ChevronLeft, ChevronRight } from 'lucide-react'

import { IconButton } from '../../ui/IconButton'
import { sheetAfter } from '../../ui/sheetList'

interface AlongProps {
  documentId: string
  onAlong: (step: number) => void
}

/** The sheets before and after in the list this one was opened from. */
export function Along({ documentId, onAlong }: AlongProps) {
  const [before, after] = [sheetAfter(documentId, -1), sheetAfter(documentId, 1)]
  if (!before && !after) return null
  return (
    <span className="flex">
      <IconButton
        label={before ? `${before.number}, before this (,)` : 'The first of the list'}
        icon={<ChevronLeft size={15} aria-hidden />}
        disabled={!before}
        onClick={() => onAlong(-1)}
      />
      <IconButton
        label={after ? `${after.number}, after this (.)` : 'The last of the list'}
        icon={<ChevronRight size={15} aria-hidden />}
        disabled={!after}
        onClick={() => onAlong(1)}
      />
    </span>
  )
}
