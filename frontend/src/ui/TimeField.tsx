import { useId, useState } from 'react'

import { readTime, timeText } from '../domain/typedTimes'
import { formOf, Input, type Keeping } from './Input'

interface Props extends Keeping {
  label: string
  /** Minutes since midnight. */
  value: number
  onChange: (minutes: number) => void
}

/** A time of the day, typed as it is said: `9`, `9:30`, `930`, `2 pm`. */
export function TimeField({ label, value, onChange, keep }: Props) {
  const id = useId()
  const [typed, setTyped] = useState<string | null>(null)
  const wrong = typed !== null && readTime(typed) === null
  return (
    <div className="w-[88px]">
      <label htmlFor={id} className="mb-0.5 block text-note font-medium text-second">
        {label}
      </label>
      <Input
        id={id}
        keep={keep}
        data-form={formOf(keep)}
        inputMode="numeric"
        autoComplete="off"
        aria-invalid={wrong}
        aria-describedby={wrong ? `${id}-wrong` : undefined}
        value={typed ?? timeText(value)}
        onChange={(event) => {
          setTyped(event.target.value)
          const minutes = readTime(event.target.value)
          if (minutes !== null) onChange(minutes)
        }}
        onBlur={() => wrong || setTyped(null)}
      />
      {wrong && (
        <p id={`${id}-wrong`} role="alert" className="text-note text-brick">
          A time like 9:30.
        </p>
      )}
    </div>
  )
}
