import type { ReactNode } from 'react'

interface Props {
  label: string
  icon: ReactNode
  onClick: () => void
  disabled?: boolean
  /** Of one that is on or off. */
  pressed?: boolean | undefined
}

/** A small act in a line, said by a sign; its words are for those who listen or hover. */
export function IconButton({ label, icon, onClick, disabled = false, pressed }: Props) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={onClick}
      className="inline-flex size-6 items-center justify-center text-second hover:text-ink disabled:opacity-30 aria-pressed:bg-plum-tint aria-pressed:text-plum"
    >
      {icon}
    </button>
  )
}
