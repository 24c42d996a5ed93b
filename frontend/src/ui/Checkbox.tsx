import { useId, type ReactNode } from 'react'

interface Props {
  label: ReactNode
  checked: boolean
  onChange: (checked: boolean) => void
  disabled?: boolean
  hint?: string
}

/** A box with its words beside it. */
export function Checkbox({ label, checked, onChange, disabled = false, hint }: Props) {
  const id = useId()
  return (
    <span className="inline-flex min-h-6 items-center gap-1.5" title={hint}>
      <input
        id={id}
        type="checkbox"
        checked={checked}
        disabled={disabled}
        className="size-3.5 accent-plum"
        onChange={(event) => onChange(event.target.checked)}
      />
      <label htmlFor={id} className={disabled ? 'text-second' : ''}>
        {label}
      </label>
    </span>
  )
}
