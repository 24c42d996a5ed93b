import { CircleCheck, CircleSlash, Copy, Eye } from 'lucide-react'
import type { ReactNode } from 'react'

import { Refused, wordsOf } from '../api/problems'
import { Button } from './Button'

const WEIGHTS = {
  stop: { word: 'Stop', look: 'text-brick', Icon: CircleSlash },
  look: { word: 'Look', look: 'text-ochre', Icon: Eye },
  same: { word: 'Same', look: 'text-slate', Icon: Copy },
  fine: { word: 'Fine', look: 'text-spruce', Icon: CircleCheck },
} as const

/** How much a finding weighs, with its sign and word. */
export function Weight({ weight }: { weight: string }) {
  const { word, look, Icon } = WEIGHTS[weight as keyof typeof WEIGHTS] ?? WEIGHTS.look
  return (
    <span className={`inline-flex items-center gap-1 font-semibold ${look}`}>
      <Icon size={14} aria-hidden />
      {word}
    </span>
  )
}

/** Says what belongs here and gives the one act that starts it. */
export function Empty({ children, act, title }: { children: ReactNode; act?: ReactNode; title?: string }) {
  return (
    <div className="flex flex-col items-start gap-3 px-6 py-8 text-second">
      {title && <h1 className="text-title font-semibold text-ink">{title}</h1>}
      <p className="max-w-[56ch] text-read">{children}</p>
      {act}
    </div>
  )
}

/** What happened, and a way to try again. */
export function ErrorNote({ error, again }: { error: unknown; again?: () => void }) {
  if (!error || (error instanceof Refused && error.isPast)) return null
  return (
    <div
      role="alert"
      className="flex items-start gap-3 border-l-4 border-brick bg-brick-tint px-3 py-2 text-brick"
    >
      <p className="text-read">{wordsOf(error)}</p>
      {again && (
        <Button small onClick={again}>
          Try again
        </Button>
      )}
    </div>
  )
}

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="px-4 py-6 text-second">
      Reading {what} …
    </p>
  )
}

interface BarProps {
  done: number
  of: number
  label: string
}

/** Progress with counts. */
export function ProgressBar({ done, of, label }: BarProps) {
  const share = of ? Math.min(100, (100 * done) / of) : 0
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(share)}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-1.5 w-full overflow-hidden bg-line"
    >
      <div className="h-full bg-plum" style={{ width: `${share}%` }} />
    </div>
  )
}
