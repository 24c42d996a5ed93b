import { Refused } from './problems'

const GONE = new Set([403, 404])

/**
 * Whether there is nothing to show: it never came, or may not be seen any more. What failed to be fetched once more,
 * because the line or the session broke, leaves what is on the page, and what is being typed there.
 */
export function isLost({ data, error }: { data: unknown; error: unknown }): boolean {
  if (!error) return false
  return data === undefined || (error instanceof Refused && GONE.has(error.problem.status))
}
