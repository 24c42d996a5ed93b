import type { ComponentProps } from 'react'

import type { Keep } from './useKept'

const LOOK =
  'rounded-[3px] border border-line bg-surface text-ink placeholder:text-second focus:border-plum disabled:border-transparent disabled:bg-transparent'

interface Size {
  /** Low, for bars and rows of tables. */
  small?: boolean
}

export interface Keeping {
  /** By which form what is typed here is kept, or why it is not. */
  keep: Keep
}

/** What a field is kept by, for whoever looks at the page. */
export const formOf = (keep: Keep) => (typeof keep === 'string' ? keep : keep.form)

const heightOf = (small: boolean) => (small ? 'h-7 px-1.5' : 'h-8 px-2')

/** A field without a visible label: it needs `aria-label`, or a label around it. */
export function Input({
  small = false,
  keep,
  className = 'w-full',
  ...rest
}: ComponentProps<'input'> & Size & Keeping) {
  return <input data-form={formOf(keep)} className={`${LOOK} ${heightOf(small)} ${className}`} {...rest} />
}

/** The same for a choice among few. */
export function Choice({ small = false, className = '', ...rest }: ComponentProps<'select'> & Size) {
  return <select className={`${LOOK} ${heightOf(small)} ${className}`} {...rest} />
}

/** A choice within a line of text, as in a title block. */
export function BareChoice({ className = '', ...rest }: ComponentProps<'select'>) {
  return <select className={`bg-transparent ${className}`} {...rest} />
}

/** The same for several lines. */
export function Lines({ keep, className = 'w-full', ...rest }: ComponentProps<'textarea'> & Keeping) {
  return <textarea data-form={formOf(keep)} className={`${LOOK} px-2 py-1 ${className}`} {...rest} />
}

/** A field that is a cell of a table: its frame shows under the pointer, and where what it holds is wrong. */
export function CellInput({ keep, className = '', ...rest }: ComponentProps<'input'> & Keeping) {
  const frame = rest['aria-invalid'] ? 'border-brick bg-brick-tint' : 'border-transparent hover:border-line'
  return (
    <input
      data-form={formOf(keep)}
      className={`h-6 w-full rounded-[2px] border bg-transparent px-1 text-list focus:bg-surface ${frame} ${className}`}
      {...rest}
    />
  )
}
