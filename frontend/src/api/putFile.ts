import { readCsrfToken, renewCsrfToken } from './client'
import { brokenLine, refusedBy, type Problem } from './problems'

/** Sends a file as the body of a PUT; what is refused is thrown, as is a broken line. */
export async function putFile<Answer = unknown>(
  address: string,
  file: Blob,
  more: Record<string, string> = {},
): Promise<Answer> {
  const send = () =>
    fetch(address, {
      method: 'PUT',
      body: file,
      headers: { 'X-Nod-Csrf': readCsrfToken(), 'Content-Type': 'application/octet-stream', ...more },
    }).catch(() => null)
  const answer = await send()
  if (!answer) throw refusedBy(brokenLine())
  if (answer.ok) return answer.json() as Promise<Answer>
  const problem = (await answer.json()) as Problem
  if (problem.code !== 'csrf' || !(await renewCsrfToken())) throw refusedBy(problem)
  const again = await send()
  if (!again) throw refusedBy(brokenLine())
  if (!again.ok) throw refusedBy((await again.json()) as Problem)
  return again.json() as Promise<Answer>
}
