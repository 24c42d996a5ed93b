import type { ReactNode } from 'react'

interface Props {
  label: string
  disabled?: boolean
  onClick: () => void
  children: ReactNode
}

/** A small act in a line, said by a sign; its words are for those who listen or hover. */
export function IconButton({ label, disabled = false, onClick, children }: Props) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      disabled={disabled}
      onClick={onClick}
      className="p-1.5 text-second hover:text-ink disabled:opacity-30"
    >
      {children}
    </button>
  )
}
