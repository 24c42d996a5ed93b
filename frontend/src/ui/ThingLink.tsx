import type { Schemas } from '../api/client'
import { PathLink } from './PathLink'

/** The name of a thing of any kind, leading to where it opens; a web address opens beside Nod. */
export function ThingLink({ thing, className = '' }: { thing: Schemas['Thing']; className?: string }) {
  const look = `text-plum underline ${className}`
  if (thing.kind === 'web')
    return (
      <a className={look} href={thing.address} target="_blank" rel="noreferrer noopener" title={thing.words}>
        {thing.words}
      </a>
    )
  return (
    <PathLink className={look} path={thing.address} title={thing.words}>
      {thing.words}
    </PathLink>
  )
}
