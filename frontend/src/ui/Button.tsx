import { useId, type ButtonHTMLAttributes, type MouseEvent, type Ref } from 'react'

type Look = 'act' | 'quiet' | 'stop'

const LOOKS: Record<Look, string> = {
  act: 'bg-plum text-on-plum border-plum hover:opacity-90',
  quiet: 'bg-surface text-ink border-line hover:border-second',
  stop: 'bg-surface text-brick border-brick hover:bg-brick-tint',
}

interface Props extends Omit<ButtonHTMLAttributes<HTMLButtonElement>, 'disabled'> {
  look?: Look
  small?: boolean
  ref?: Ref<HTMLButtonElement>
  /** What it does is on its way. */
  busy?: boolean
  /** Why it cannot be done now. It is said when one points at the button, comes to it, or presses it all the same. */
  why?: string | false | undefined
}

/** The look of a button, for a link that stands among buttons. */
export function buttonLook(look: Look = 'quiet', small = false): string {
  const size = small ? 'h-6 px-2 text-note' : 'h-8 px-3 text-list'
  return `group/why relative inline-flex shrink-0 items-center justify-center gap-1.5 rounded-[3px] border font-medium whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-50 aria-disabled:cursor-not-allowed aria-disabled:border-line aria-disabled:bg-paper aria-disabled:text-second ${size} ${LOOKS[look]}`
}

/** A button says the act; one that is dead says why. `busy` states are the caller's to word. */
export function Button({
  look = 'quiet',
  small = false,
  className = '',
  type = 'button',
  busy = false,
  why,
  children,
  ...rest
}: Props) {
  const note = useId()
  const shape = `${buttonLook(look, small)} ${className}`
  // Not `disabled`: one can come to it by the keyboard and hear why. Enter in a field of its form presses it, too.
  const dead = why
    ? {
        'aria-disabled': true,
        'aria-describedby': note,
        onClick: (event: MouseEvent) => event.preventDefault(),
      }
    : {}
  return (
    <button type={type} className={shape} disabled={busy && !why} {...rest} {...dead}>
      {children}
      {why && (
        <span
          id={note}
          aria-hidden
          className="absolute top-full right-0 z-30 mt-1 hidden w-max max-w-[260px] border border-ochre bg-ochre-tint px-2 py-1 text-left text-note whitespace-normal text-ochre group-hover/why:block group-focus/why:block"
        >
          {why}
        </span>
      )}
    </button>
  )
}
