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

/** The look of a button, for a link that stands among buttons. */
export function buttonLook(look: Look = 'quiet', small = false): string {
  const size = small ? 'h-6 px-2 text-note' : 'h-8 px-3 text-list'
  return `inline-flex shrink-0 items-center justify-center gap-1.5 rounded-[3px] border font-medium whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-50 ${size} ${LOOKS[look]}`
}

/** A button says the act. `busy` states are the caller's to word. */
export function Button({ look = 'quiet', small = false, className = '', type = 'button', ...rest }: Props) {
  return <button type={type} className={`${buttonLook(look, small)} ${className}`} {...rest} />
}
