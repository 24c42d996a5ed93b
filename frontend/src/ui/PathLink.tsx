import { Link, useRouter } from '@tanstack/react-router'
import type { ReactNode } from 'react'

interface Props {
  /** A path of Nod as the server names it, with what is after a question mark. */
  path: string
  className?: string
  title?: string
  onClick?: () => void
  children: ReactNode
}

/** A link to where the server says that something opens. */
export function PathLink({ path, ...rest }: Props) {
  const router = useRouter()
  const [to = '/', query = ''] = path.split('?')
  return <Link to={to} search={router.options.parseSearch(query ? `?${query}` : '') as never} {...rest} />
}
