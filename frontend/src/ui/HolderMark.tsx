import type { Schemas } from '../api/client'

export type HolderCell = Schemas['HolderCell']

const LOOK: Record<string, string> = {
  in_step: 'text-ink',
  not_acknowledged: 'text-ink',
  behind: 'bg-ochre-tint text-ochre font-semibold',
  ahead: 'text-slate',
  withdrawn: 'bg-brick-tint text-brick',
  never: 'text-second',
}

/** What a company has of a document: its revision, with a sign where it is not in step. */
export function HolderMark({ cell }: { cell: HolderCell }) {
  return (
    <span className={`code inline-flex items-center gap-1 px-1 ${LOOK[cell.state] ?? ''}`}>
      {cell.state === 'not_acknowledged' && <Ring />}
      {cell.state === 'withdrawn' && <span aria-hidden>✕</span>}
      {cell.revision}
      {cell.state === 'behind' && <span aria-hidden>−{cell.behind.length || 1}</span>}
      {cell.state === 'ahead' && <span aria-hidden>↑</span>}
    </span>
  )
}

function Ring() {
  return <span aria-hidden className="inline-block size-2 rounded-full border-[1.5px] border-current" />
}

/** The same in words. */
export function holderWords(cell: HolderCell): string {
  const older = cell.older_at ? '; an older one was sent by mistake since' : ''
  switch (cell.state) {
    case 'in_step':
      return `in step with ${cell.revision}${older}`
    case 'not_acknowledged':
      return `was sent ${cell.revision}, not acknowledged${older}`
    case 'behind':
      return `behind: has ${cell.revision}, and not ${cell.behind.join(', ')}${older}`
    case 'ahead':
      return `has ${cell.revision}, which is not released${older}`
    case 'withdrawn':
      return `has ${cell.revision} of what is withdrawn`
    default:
      return 'was never sent it'
  }
}
