// The project stands in the address, before the path that the router knows: `/p/BFT/register`.

const IN_PROJECT = /^\/p\/([^/?#]+)(?=[/?#]|$)/
/** Those that belong to no project: for people who are not signed in, and what anybody may look at. */
const OUTSIDE = /^\/(sign-in|forgotten|check|[ktcl]\/)/
/** What ids look like. */
const ID = /(?:^|[/=])([a-z2-7]{16})(?=$|[/?&#])/

/** The number of the project that an address is in; null for one that names none. */
export function projectIn(address: string): string | null {
  const number = IN_PROJECT.exec(address)?.[1]
  return number === undefined ? null : decodeURIComponent(number)
}

/** The path within its project. */
export function pathIn(address: string): string {
  const path = address.replace(IN_PROJECT, '')
  return path.startsWith('/') ? path : `/${path}`
}

/** The address of a path in a project; of what belongs to none, the path itself. */
export function addressIn(number: string | null, path: string): string {
  return number === null || OUTSIDE.test(path) ? path : `/p/${encodeURIComponent(number)}${path}`
}

/** The id of what an address shows, if it names a thing. */
export function thingIn(address: string): string | null {
  return ID.exec(address)?.[1] ?? null
}
