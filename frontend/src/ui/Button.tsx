import type { ButtonHTMLAttributes, Ref } from 'react'

type Look = 'act' | 'quiet' | 'stop'

const LOOKS: Record<Look, string> = {
  act: 'bg-plum text-on-plum border-plum hover:opacity-90',
  quiet: 'bg-surface text-ink border-line hover:border-second',
  stop: 'bg-surface text-brick border-brick hover:bg-brick-tint',
}

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look
  small?: boolean
  ref?: Ref<HTMLButtonElement>
}

/** A button says the act. `busy` states are the caller's to word. */
export function Button({ look = 'quiet', small = false, className = '', type = 'button', ...rest }: Props) {
  const size = small ? 'h-6 px-2 text-[12.5px]' : 'h-8 px-3 text-[13.5px]'
  return (
    <button
      type={type}
      className={`inline-flex shrink-0 items-center justify-center gap-1.5 rounded-[3px] border font-medium whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-50 ${size} ${LOOKS[look]} ${className}`}
      {...rest}
    />
  )
}
