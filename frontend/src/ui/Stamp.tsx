import { createContext, useContext } from 'react'

import type { Schemas } from '../api/client'

const MEANINGS: Record<string, string> = {
  go: 'text-spruce border-spruce',
  look: 'text-ochre border-ochre',
  stop: 'text-brick border-brick',
}

/** The project's verdict set, for all below. */
export const VerdictContext = createContext<readonly Schemas['VerdictShown'][]>([])

/** A verdict in a list: the letter in its square; its words beside it, or for those who hover or listen. */
export function VerdictMark({ code, spelled = false }: { code: string; spelled?: boolean }) {
  const set = useContext(VerdictContext)
  if (!code) return null
  const { words, meaning } = set.find((each) => each.code === code) ?? { words: '', meaning: 'look' }
  return (
    <span className="inline-flex items-center gap-1.5" title={words}>
      <span
        className={`inline-flex size-[19px] items-center justify-center border-[1.5px] text-note font-bold ${MEANINGS[meaning]}`}
      >
        {code}
      </span>
      <span className={spelled ? '' : 'sr-only'}>{words}</span>
    </span>
  )
}

interface Props {
  letter: string
  words: string
  meaning: string
  below: string
}

/** An inked stamp: square frame, letter and word, date and initials under it. Flat and straight. */
export function Stamp({ letter, words, meaning, below }: Props) {
  return (
    <div className={`inline-flex flex-col items-center ${MEANINGS[meaning] ?? 'border-slate text-slate'}`}>
      <div className="flex min-w-[92px] items-center gap-1.5 border-2 border-current px-1.5 py-0.5">
        <span className="text-head leading-5 font-bold">{letter}</span>
        <span className="text-fine leading-[12px] font-semibold">{words}</span>
      </div>
      <span className="code mt-0.5 text-fine">{below}</span>
    </div>
  )
}
