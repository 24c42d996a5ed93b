import { useId, type InputHTMLAttributes, type ReactNode, type TextareaHTMLAttributes } from 'react'

import { formOf, type Keeping } from './Input'

const BOX =
  'w-full rounded-[3px] border border-line bg-surface px-2 text-ink placeholder:text-second focus:border-plum'

interface Labelled extends Keeping {
  label: string
  hint?: ReactNode
}

export function TextField({
  label,
  keep,
  hint,
  className = '',
  ...rest
}: Labelled & InputHTMLAttributes<HTMLInputElement>) {
  const id = useId()
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-0.5 block font-sans text-note font-medium text-second">
        {label}
      </label>
      <input id={id} data-form={formOf(keep)} className={`${BOX} h-8`} {...rest} />
      {hint}
    </div>
  )
}

export function TextArea({
  label,
  keep,
  hint,
  className = '',
  ...rest
}: Labelled & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  const id = useId()
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-0.5 block font-sans text-note font-medium text-second">
        {label}
      </label>
      <textarea id={id} data-form={formOf(keep)} rows={2} className={`${BOX} py-1.5`} {...rest} />
      {hint}
    </div>
  )
}

interface SelectProps {
  label: string
  value: string
  onChange: (value: string) => void
  choices: readonly { code: string; words: string }[]
  hideLabel?: boolean
  disabled?: boolean
  className?: string
}

export function Select({
  label,
  value,
  onChange,
  choices,
  hideLabel = false,
  disabled = false,
  className = '',
}: SelectProps) {
  const id = useId()
  return (
    <div className={className}>
      <label
        htmlFor={id}
        className={hideLabel ? 'sr-only' : 'mb-0.5 block text-note font-medium text-second'}
      >
        {label}
      </label>
      <select
        id={id}
        value={value}
        disabled={disabled}
        onChange={(event) => onChange(event.target.value)}
        className={`${BOX} h-8`}
      >
        {choices.map((choice) => (
          <option key={choice.code} value={choice.code}>
            {choice.words}
          </option>
        ))}
      </select>
    </div>
  )
}
